"""What is fixed before a line is bound, so that running it again gives the same."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fixed:
    """The day of the run (days since 1970-01-01), and the number of the line in its cut (-1: it stands in none yet)."""

    today: int
    line: int = -1
