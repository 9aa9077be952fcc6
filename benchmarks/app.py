"""The app on a pseudo-terminal, in processes of its own: first rows, and the second opening."""

from __future__ import annotations

import gzip
import os
import pty
import select
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.measuring import Measured

_FIRST_CELL = b"00000000-31"
_BARE = """
from textual.app import App
from textual.widgets import Static
class Bare(App):
    def compose(self):
        yield Static("painted here")
Bare().run()
"""


def _until(command: list[str], wanted: bytes, keys: bytes = b"", then: bytes | None = None) -> tuple[float, float]:
    """Start a program on a pseudo-terminal; return seconds until a text is painted, and from keys to the next text."""
    master, slave = pty.openpty()
    import fcntl
    import struct
    import termios

    fcntl.ioctl(slave, termios.TIOCSWINSZ, struct.pack("HHHH", 47, 160, 0, 0))
    # byte code is written, as on a user's machine: compiling everything at each start is not what is measured
    environment = {**os.environ, "PYTHONDONTWRITEBYTECODE": "", "TERM": "xterm-256color", "COLORTERM": "truecolor"}
    start = time.perf_counter()
    process = subprocess.Popen(command, stdin=slave, stdout=slave, stderr=slave, env=environment, close_fds=True)
    os.close(slave)
    seen = b""
    first = second = 0.0
    try:
        while time.perf_counter() - start < 120:
            if select.select([master], [], [], 0.5)[0]:
                seen += os.read(master, 1 << 16)
            if not first and wanted in seen:
                first = time.perf_counter() - start
                if then is None:
                    break
                seen = seen[seen.index(wanted) + len(wanted) :]
                if keys:
                    os.write(master, keys)
                start += first
                first = first or 1e-9
            elif first and then is not None and then in seen:
                second = time.perf_counter() - start
                break
    finally:
        process.kill()
        process.wait()
        os.close(master)
    return first, second


def app_times(path: Path) -> Iterator[Measured]:
    """Measure first rows and second opening (the file must be in the cache already)."""
    others = {"20 GB": huge_file(path), "gz": compressed_file(path)}
    _until(_program(path), _FIRST_CELL)
    ours: dict[str, list[float]] = {name: [] for name in others}
    bare, mapped, opened = [], [], []
    for _ in range(15):
        first, second = _until(_program(path), _FIRST_CELL, then=b"10,000,000")
        mapped.append(first)
        opened.append(second)
        bare.append(_until([sys.executable, "-c", _BARE], b"painted here")[0])
        for name, other in others.items():
            ours[name].append(_until(_program(other), _FIRST_CELL)[0])
    painted = statistics.median(bare)
    yield Measured("first rows", statistics.median(mapped), painted, "bare Textual application", 1.5)
    for name, times in ours.items():
        yield Measured(f"first rows, {name}", statistics.median(times), painted, "bare Textual application", 1.5)
    yield Measured("second opening, after the paint", statistics.median(opened), 0.3, "the limit itself", 1.0)


def _program(path: Path) -> list[str]:
    return [sys.executable, "-m", "yardcut", str(path)]


def huge_file(path: Path) -> Path:
    """Return a file of 20 GB that takes hardly any disk: some rows, and a hole behind them."""
    huge = path.with_name("packs_20_gb.csv")
    if not huge.exists():
        with open(path, "rb") as source, open(huge, "wb") as file:
            file.write(source.read(1 << 20))
            file.truncate(20 << 30)
    return huge


def compressed_file(path: Path) -> Path:
    """Return the first 200 MB of the benchmark file, compressed."""
    small = path.with_name("packs_200_mb.csv.gz")
    if not small.exists():
        with open(path, "rb") as source, gzip.open(small, "wb", compresslevel=1) as file:
            file.write(source.read(200 << 20).rpartition(b"\n")[0])
    return small
