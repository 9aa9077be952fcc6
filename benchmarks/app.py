"""The app on a pseudo-terminal, in processes of its own: first rows, and the second opening."""

from __future__ import annotations

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
    ours, bare, opened = [], [], []
    program = [sys.executable, "-m", "yardcut", str(path)]
    _until(program, b"00000000-31")
    for _ in range(15):
        first, second = _until(program, b"00000000-31", then=b"10,000,000")
        ours.append(first)
        opened.append(second)
        bare.append(_until([sys.executable, "-c", _BARE], b"painted here")[0])
    yield Measured("first rows", statistics.median(ours), statistics.median(bare), "bare Textual application", 1.5)
    yield Measured("second opening, after the paint", statistics.median(opened), 0.3, "the limit itself", 1.0)
