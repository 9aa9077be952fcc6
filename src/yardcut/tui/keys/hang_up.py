"""A terminal that is gone, its window closed or its line dropped: what is written is lost, and the app leaves."""

from __future__ import annotations

import os
import select
import signal
import time
from typing import IO

_LEAVING_SECONDS = 10


class LastingFile:
    """A terminal to write to that takes everything, also when it is there no more.

    The thread that writes would end at the first error, and whoever hands it more would wait for good.
    """

    def __init__(self, terminal: IO[str]) -> None:
        self._terminal = terminal

    def write(self, text: str) -> int:
        """Write a text, or lose it."""
        try:
            return self._terminal.write(text)
        except OSError:
            return len(text)

    def flush(self) -> None:
        """Send what was written, or lose it."""
        try:
            self._terminal.flush()
        except OSError:
            return

    def isatty(self) -> bool:
        """Tell whether it is a terminal."""
        return self._terminal.isatty()

    def fileno(self) -> int:
        """Return its number."""
        return self._terminal.fileno()


class HangUp:
    """Watches for the terminal with a number to be gone."""

    def __init__(self, number: int) -> None:
        self._number = number
        self._gone_since: float | None = None

    def leave(self) -> None:
        """Where the terminal is gone, tell the program to end, as a signal would: a hang-up may be ignored.

        A program that has not ended some seconds later is doing something that has no end: it ends here. The list was
        kept at each edit, and a file that is half written has another name.
        """
        poll = select.poll()
        poll.register(self._number, 0)  # a hang-up is told without being asked for
        if not any(event & select.POLLHUP for _, event in poll.poll(0)):
            return
        self._gone_since = self._gone_since or time.monotonic()
        if time.monotonic() - self._gone_since > _LEAVING_SECONDS:
            os._exit(128 + signal.SIGHUP)  # what a shell says of a program that a hang-up ended
        os.kill(os.getpid(), signal.SIGTERM)
