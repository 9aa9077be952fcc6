"""The one count of threads."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from yardcut.core.settings.settings_in_force import settings

_MOST_FOR_BLOCKS = 4
_most: ContextVar[int] = ContextVar("most threads", default=_MOST_FOR_BLOCKS)


def scan_threads() -> int:
    """Return how many threads go over the rows at once."""
    count: int = settings().value("work.threads")
    return count


def block_threads() -> int:
    """Return how many threads parse, sort or write blocks at once: more than four gain nothing there."""
    return min(_most.get(), scan_threads())


@contextmanager
def one_block_thread() -> Iterator[None]:
    """Let blocks be written by one thread as long as this lasts: of several processes each is a thread of the work."""
    before = _most.set(1)
    try:
        yield
    finally:
        _most.reset(before)
