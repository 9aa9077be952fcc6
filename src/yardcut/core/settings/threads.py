"""The one count of threads."""

from __future__ import annotations

from yardcut.core.settings.settings_in_force import settings

_MOST_FOR_BLOCKS = 4


def scan_threads() -> int:
    """Return how many threads go over the rows at once."""
    count: int = settings().value("work.threads")
    return count


def block_threads() -> int:
    """Return how many threads parse, sort or write blocks at once: more than four gain nothing there."""
    return min(_MOST_FOR_BLOCKS, scan_threads())
