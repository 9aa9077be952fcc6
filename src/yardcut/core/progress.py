"""Long work takes a counter to report by and a token to be stopped with. Both are plain and thread-safe."""

from __future__ import annotations

import threading
import time

from yardcut.core.errors import StoppedError

_LEAST_SECONDS = 1.0
_MOST_OF_A_LABEL = 44
"""Characters of what is worked on: names of columns and files may be long, and the figures stand behind them."""


class CancelToken:
    """Set by whoever no longer wants the work; looked at by whoever does it, at least every 50 ms.

    ``part_said`` is what is said of a reading that it stopped, with the rows read in the place of ``{rows}``.
    """

    part_said = "only a part was read: the first {rows} rows"

    def __init__(self) -> None:
        self._event = threading.Event()

    def cancel(self) -> None:
        """Ask the work to stop."""
        self._event.set()

    @property
    def cancelled(self) -> bool:
        """True once somebody asked."""
        return self._event.is_set()

    def check(self) -> None:
        """Raise ``StoppedError`` once somebody asked."""
        if self._event.is_set():
            raise StoppedError

    def wait(self, seconds: float) -> None:
        """Wait with the work a moment; raise ``StoppedError`` when somebody asked meanwhile."""
        if self._event.wait(seconds):
            raise StoppedError


class EnoughRows(CancelToken):
    """Stops a reading once so many rows are there, or when somebody who holds ``other`` wants it no longer."""

    part_said = "reading stopped after {rows} rows: all that was asked for is there, and figures speak of these rows"

    def __init__(self, other: CancelToken, progress: Progress, rows: int) -> None:
        super().__init__()
        self._other, self._progress, self._rows = other, progress, rows

    def check(self) -> None:
        """Raise ``StoppedError`` once somebody asked, or the rows are there."""
        self._other.check()
        if self._progress.rows >= self._rows:
            raise StoppedError


class Progress:
    """Work done out of a total, sampled by a display at its own pace; ``rows`` counts rows where the total does not."""

    def __init__(self, label: str = "", total: int = 0) -> None:
        self.label = label
        self.total = total
        self.done = 0
        self.rows = self.seen = self.passed = 0
        self.started = time.monotonic()
        self._lock = threading.Lock()

    def begin(self, label: str, total: int) -> None:
        """Start a new stretch of work."""
        with self._lock:
            self.label, self.total, self.done, self.rows, self.started = label, total, 0, 0, time.monotonic()
            self.seen = self.passed = 0

    def advance(self, amount: int) -> None:
        """Count work as done."""
        with self._lock:
            self.done += amount

    def found(self, seen: int, passed: int) -> None:
        """Count rows that were looked at, and those of them for which a condition is true."""
        with self._lock:
            self.seen += seen
            self.passed += passed

    @property
    def share(self) -> float:
        """The part done, from 0 to 1."""
        return min(1.0, self.done / self.total) if self.total else 0.0

    def sentence(self) -> str:
        """Say what is done, how much of it, how fast where rows are counted, and how long the rest may take."""
        label = self.label if len(self.label) <= _MOST_OF_A_LABEL else f"{self.label[: _MOST_OF_A_LABEL - 1]}…"
        said = label + (f" {self.share:.0%}" if self.total else "")
        if self.rows and not self.total:
            said += f" {self.rows:,} rows"
        if self.seen:
            said += f", true for {self.passed:,} of {self.seen:,} so far"
        left = self.seconds_left()
        if left is None:
            return said
        if self.rows:
            said += f", {self.rows_per_second():,.0f} rows/s"
        return f"{said}, {left:.0f} s left"

    def rows_per_second(self) -> float:
        """Return how many rows came in a second so far, to two digits: more of them would only flicker."""
        rate = self.rows / max(time.monotonic() - self.started, 1e-9)
        return float(f"{rate:.2g}")

    def seconds_left(self) -> float | None:
        """Guess how long the rest takes from what is done; ``None`` while that would be a mere guess."""
        spent = time.monotonic() - self.started
        if spent < _LEAST_SECONDS or not 0 < self.share < 1:
            return None
        return spent * (1 - self.share) / self.share
