"""Processes killed while they save or read: the target is whole, and the next run sweeps what was left."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from functools import cache
from pathlib import Path

from reliability.yard import LARGE, write_packs

_LINES = ("order price, ticket", "keep boards > 30", "draw first 150000")


def turn(seed: int, folder: Path) -> str | None:
    """Kill a few saves at random moments, some fed by a pipe; then let one through."""
    rng = random.Random(seed)
    shared = folder.parent
    source, wholes = shared / "large.csv", _wholes(shared)
    environment = {**os.environ, "XDG_CACHE_HOME": str(folder / "cache")}
    target = folder / "out.csv"
    for _ in range(4):
        piped = rng.random() < 0.4
        words = [sys.executable, "-m", "yardcut", "cut", "-" if piped else str(source), "-l", rng.choice(_LINES),
                 "--out", str(target), "--replace"]  # fmt: skip
        with open(source, "rb") as feed, open(folder / "said", "wb") as said:
            process = subprocess.Popen(words, stdin=feed if piped else subprocess.DEVNULL, stdout=said, stderr=said,
                                       env=environment)  # fmt: skip
            time.sleep(rng.uniform(0.05, 4.0))
            process.send_signal(signal.SIGKILL)
            process.wait()
        if target.exists() and target.read_bytes() not in wholes:
            return f"{words!r}: killed, and the target is none of the whole slices"
    done = subprocess.run(
        [sys.executable, "-m", "yardcut", "cut", str(source), "-l", _LINES[1], "--out", str(target), "--replace"],
        env=environment, capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        return f"after the kills: exit code {done.returncode}\n{done.stderr}"
    left = [
        path
        for path in folder.rglob("*")
        if path.name.endswith(".partial") or path.name.startswith(("building-", "piped-"))
    ]
    if left:
        return f"after the kills and a save there is still {os.path.relpath(left[0], folder)}"
    return None


@cache
def _wholes(shared: Path) -> frozenset[bytes]:
    """Return the slices as they are when nothing is killed."""
    source = shared / "large.csv"
    write_packs(source, LARGE, 1)
    found = set()
    for line in _LINES:
        done = subprocess.run([sys.executable, "-m", "yardcut", "cut", str(source), "-l", line], capture_output=True,
                              check=True)  # fmt: skip
        found.add(done.stdout)
    return frozenset(found)
