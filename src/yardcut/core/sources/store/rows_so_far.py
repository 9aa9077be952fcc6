"""When somebody who watches a reading gets the rows that are there by then."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from yardcut.core.progress import CancelToken
from yardcut.core.table.table_so_far import TableSoFar

FIRST_SECONDS = 0.3
"""A source that is read sooner needs no figures of a part."""
_SECONDS = 0.5
_LOOK_SECONDS = 0.05


class RowsSoFar:
    """Hands on a table now and then, from the thread that reads; never before the last one was taken in."""

    def __init__(self, hand_on: Callable[[TableSoFar], None], first_seconds: float = FIRST_SECONDS) -> None:
        self._hand_on = hand_on
        self._next = time.monotonic() + first_seconds
        self._is_waited_for = True
        self._holders, self._lock = 0, threading.Lock()

    @contextmanager
    def held(self) -> Iterator[None]:
        """Have the reading wait while something else of the source is read first; several may, at once."""
        with self._lock:
            self._holders += 1
        try:
            yield
        finally:
            with self._lock:
                self._holders -= 1

    def wait_while_held(self, token: CancelToken) -> float:
        """Wait, in the thread that reads, until nobody holds the reading or it is to be stopped; return the seconds."""
        began = time.monotonic()
        while self._holders and not token.cancelled:
            time.sleep(_LOOK_SECONDS)
        return time.monotonic() - began

    def is_due(self) -> bool:
        """Tell whether a table is wanted now."""
        return self._is_waited_for and time.monotonic() >= self._next

    def hand_on(self, table: TableSoFar) -> None:
        """Give a table; the next is asked for by :meth:`go_on`."""
        self._is_waited_for = False
        self._hand_on(table)

    def go_on(self) -> None:
        """Say that the last table is taken in, its figures worked out: there may be another in a while."""
        self._next = time.monotonic() + _SECONDS
        self._is_waited_for = True
