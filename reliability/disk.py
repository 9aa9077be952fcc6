"""A disk that is full at any moment: a sentence, a target that is whole or as it was, and nothing left lying about."""

from __future__ import annotations

import os
import random
from pathlib import Path

from reliability.command import run
from reliability.yard import write_packs

_ROWS = 20_000
_OLD = b"what was there\n"


def turn(seed: int, folder: Path) -> str | None:
    """Read and write while no file may grow beyond some size."""
    rng = random.Random(seed)
    write_packs(folder / "packs.csv", _ROWS, seed % 3)
    form = rng.choice(("csv", "tsv", "parquet"))
    target = folder / f"out.{form}"
    if rng.random() < 0.5:
        target.write_bytes(_OLD)
    most = int(10 ** rng.uniform(0, 6.3))
    words = ["cut", "packs.csv", "-l", rng.choice(("order price", "keep boards > 9", "draw random 5000 seed 3"))]
    ended = run([*words, "--out", target.name, "--replace"], folder, most_file_bytes=most, own_cache=True)
    wrong = ended.wrong()
    if wrong is not None:
        return f"most {most} bytes, {words!r}: {wrong}"
    if ended.code != 0 and target.exists() and target.read_bytes() != _OLD:
        return f"most {most} bytes, {words!r}: exit code {ended.code}, and the target is neither whole nor as it was"
    left = [path for path in folder.rglob("*") if path.name.endswith(".partial") or path.name.startswith("building-")]
    if left:
        return f"most {most} bytes, {words!r}: left {os.path.relpath(left[0], folder)}"
    return None
