"""Timing two things in one run: what counts is their ratio, the median of several tries taken in turns."""

from __future__ import annotations

import statistics
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Measured:
    """Our time and the yardstick's, in seconds, and the ratio to hold."""

    name: str
    ours: float
    yardstick: float
    what: str
    hold: float

    def __str__(self) -> str:
        ratio = self.ours / self.yardstick
        verdict = "holds" if ratio <= self.hold else "MISSES"
        return (
            f"{self.name:34} {self.ours:8.3f} s  {self.what:34} {self.yardstick:8.3f} s"
            f"  ratio {ratio:6.2f}  {verdict} {self.hold:g}"
        )


def seconds(work: Callable[[], object]) -> float:
    """Time one call."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def compare(
    name: str, ours: Callable[[], object], what: str, yardstick: Callable[[], object], hold: float, tries: int = 5
) -> Measured:
    """Time both in turns, once unmeasured to warm up if there are several tries."""
    if tries > 1:
        ours()
        yardstick()
    pairs = [(seconds(ours), seconds(yardstick)) for _ in range(tries)]
    return Measured(
        name, statistics.median(one for one, _ in pairs), statistics.median(other for _, other in pairs), what, hold
    )


def anonymous_bytes() -> int:
    """Return the anonymous memory of this process (Linux; 0 elsewhere)."""
    try:
        lines = Path("/proc/self/status").read_text(encoding="ascii").splitlines()
    except OSError:
        return 0
    return sum(int(line.split()[1]) * 1024 for line in lines if line.startswith("RssAnon"))


class PeakMemory:
    """Watches the anonymous memory while a block runs; ``bytes`` is the most seen."""

    def __init__(self) -> None:
        self.bytes = 0
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)

    def _watch(self) -> None:
        while not self._ended.wait(0.01):
            self.bytes = max(self.bytes, anonymous_bytes())

    def __enter__(self) -> PeakMemory:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._thread.join()
