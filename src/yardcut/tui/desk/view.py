"""Which rows of a line are looked at."""

from __future__ import annotations

from enum import Enum


class View(Enum):
    """Which rows of the selected line are looked at."""

    ROWS = "the rows it leaves"
    OFFCUT = "the rows it removed"
    PART = "the rows a part of it alone removed"
    BEFORE = "the rows as they reach it"

    @property
    def is_gone(self) -> bool:
        """True for rows that the line removed."""
        return self in (View.OFFCUT, View.PART)
