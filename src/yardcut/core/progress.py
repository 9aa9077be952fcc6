"""Long work takes a counter to report by and a token to be stopped with. Both are plain and thread-safe."""

from __future__ import annotations

import threading
import time

from yardcut.core.errors import StoppedError

_LEAST_SECONDS = 1.0


class CancelToken:
    """Set by whoever no longer wants the work; looked at by whoever does it, at least every 50 ms."""

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


class Progress:
    """Work done out of a total, sampled by a display at its own pace."""

    def __init__(self, label: str = "", total: int = 0) -> None:
        self.label = label
        self.total = total
        self.done = 0
        self.started = time.monotonic()
        self._lock = threading.Lock()

    def begin(self, label: str, total: int) -> None:
        """Start a new stretch of work."""
        with self._lock:
            self.label, self.total, self.done, self.started = label, total, 0, time.monotonic()

    def advance(self, amount: int) -> None:
        """Count work as done."""
        with self._lock:
            self.done += amount

    @property
    def share(self) -> float:
        """The part done, from 0 to 1."""
        return min(1.0, self.done / self.total) if self.total else 0.0

    def seconds_left(self) -> float | None:
        """Guess how long the rest takes from what is done; ``None`` while that would be a mere guess."""
        spent = time.monotonic() - self.started
        if spent < _LEAST_SECONDS or not 0 < self.share < 1:
            return None
        return spent * (1 - self.share) / self.share
