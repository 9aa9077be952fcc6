"""A picture of bars, as data: what is drawn on the screen and what is written to a file."""

from __future__ import annotations

from yardcut.core.quick_dataclasses import dataclass

BARS, STACKED, LINE = "bars", "stacked", "line"
MOST_BARS = 200
"""Of one picture: more of them nobody reads."""


@dataclass(frozen=True, slots=True)
class Series:
    """One bar for each label: its length, and what is written beside it."""

    name: str
    values: tuple[float, ...]
    texts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Bars:
    """A picture: labels, and one series of values or several; ``small_print`` says of what table, cut and day it is.

    ``kind`` says how it is drawn: as ``bars`` (those of several series below each other), ``stacked`` (one behind the
    other) or as a ``line`` from label to label.
    """

    title: str
    axis: str
    labels: tuple[str, ...]
    series: tuple[Series, ...]
    small_print: str = ""
    kind: str = BARS

    @property
    def least(self) -> float:
        """Where the shortest bar ends, or 0."""
        return min((value for each in self.series for value in each.values), default=0.0)

    @property
    def most(self) -> float:
        """Where the longest bar ends, or 0."""
        if self.kind == STACKED:
            return max((sum(both) for both in zip(*(each.values for each in self.series), strict=True)), default=0.0)
        return max((value for each in self.series for value in each.values), default=0.0)
