"""A terminal that is gone, its window closed or its line dropped: what is written is lost, and the app leaves."""

from __future__ import annotations

import os
import select
import signal
from typing import IO


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


def leave_if_hung_up(number: int) -> None:
    """Tell the program to end, as a signal would, if the terminal with a number is gone: a hang-up may be ignored."""
    poll = select.poll()
    poll.register(number, 0)  # a hang-up is told without being asked for
    if any(event & select.POLLHUP for _, event in poll.poll(0)):
        os.kill(os.getpid(), signal.SIGTERM)
