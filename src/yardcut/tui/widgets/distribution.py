"""A column's distribution several lines high, with its scale: least, quarters and most below, the fullest beside."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.cells import cell_len
from textual.content import Content

from yardcut.tui.number_marks import shown_value
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary

_LEVELS = " ▁▂▃▄▅▆▇█"
Mark = tuple[float, str]
"""Where on the scale, from 0 to 1, and what stands there."""


def histogram(bins: Sequence[int], lines: int, inside: tuple[int, int] | None = None, cells: int = 1) -> list[Content]:
    """Draw bins line by line, each some cells wide; those from place to place ``inside`` stand out, or all.

    A bin that is not empty keeps a trace, so that rare values stay visible. How many rows the fullest has stands
    beside its top.
    """
    most = max(bins, default=0)
    levels = [max(1, round(count / most * lines * 8)) if count else 0 for count in bins]
    first, last = inside or (0, len(bins) - 1)
    found = []
    for line in range(lines - 1, -1, -1):
        parts = [
            (_LEVELS[max(0, min(8, level - line * 8))] * cells, "$plank" if first <= place <= last else "$gone")
            for place, level in enumerate(levels)
        ]
        beside = f"┤{plural(most, 'row')}" if line == lines - 1 else ""
        found.append(Content.assemble(*parts, (beside, "$dim")))
    return found


def scale_line(summary: Summary, width: int) -> Content:
    """Return the line below a drawing of so many cells: least and most, the middle and the quarters where they fit."""
    return Content.styled(spaced(_marks(summary), width), "$dim")


def about(summary: Summary) -> str:
    """Return what stands before an estimate."""
    return "about " if summary.estimated else ""


def heap_said(summary: Summary) -> str:
    """Say which value heaps up in one bin, as wide as all others: "147 rows at 6.1"; nothing where none does."""
    if summary.heap is None:
        return ""
    text, rows = summary.heap
    return f"{about(summary)}{plural(rows, 'row')} at {shown_value(summary.kind, text)}"


def spaced(marks: Sequence[Mark], width: int) -> str:
    """Put texts at their places on a line, the first ones of them first; what would touch another is left out.

    >>> spaced([(0, '3'), (1, '90'), (0.5, '12'), (0.55, '13')], 20)
    '3        12       90'
    """
    line, is_free = [" "] * width, [True] * width
    for place, text in marks:
        cells = cell_len(text)
        start = max(0, min(width - cells, round(place * (width - 1) - cells / 2 + 0.1)))
        around = slice(max(0, start - 2), start + cells + 2)
        if 0 < cells <= width and all(is_free[around]):
            line[start : start + cells] = [text, *[""] * (cells - 1)]
            is_free[start : start + cells] = [False] * cells
    return "".join(line)


def _marks(summary: Summary) -> list[Mark]:
    levels, steps = summary.levels, len(summary.levels) - 1
    if steps < 0 or summary.least is None or summary.most is None:
        return []
    span = (levels[-1] - levels[0]) or 1.0
    found: list[Mark] = [(0.0, summary.least), (1.0, summary.most)]
    quarters = (2, summary.median), (1, summary.lower_quartile), (3, summary.upper_quartile)
    for quarter, text in quarters:
        if text is not None:
            found.append(((levels[round(steps * quarter / 4)] - levels[0]) / span, text))
    return [(place, shown_value(summary.kind, text)) for place, text in found]
