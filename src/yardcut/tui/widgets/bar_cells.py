"""Little drawings of one line: the plank of a line, and distributions."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

SOLID = "█"
SAW = "╱"
GONE = "·"
_LEVELS = " ▁▂▃▄▅▆▇█"


def plank(left: int, taken: int, total: int, width: int) -> tuple[int, int, int]:
    """Return how many cells of a bar are left, taken by this line, and were gone before.

    A part that is not empty keeps at least one cell, so that very small remainders stay visible.
    """
    if total <= 0 or width <= 0:
        return 0, 0, max(0, width)
    solid = round(left / total * width)
    if left and not solid:
        solid = 1
    saw = round((left + taken) / total * width) - solid
    if taken and saw < 1:
        saw = 1
    if solid + saw > width:
        if solid > saw:
            solid = width - saw
        else:
            saw = width - solid
    return solid, max(0, saw), max(0, width - solid - max(0, saw))


def merged(bins: Sequence[int], width: int) -> list[int]:
    """Add neighbouring bins until there are at most ``width``."""
    if len(bins) <= width:
        return list(bins)
    edges = [round(step * len(bins) / width) for step in range(width + 1)]
    return [sum(bins[start:end]) for start, end in itertools.pairwise(edges)]


def heights(counts: Sequence[int], was: Sequence[int] = ()) -> str:
    """Draw a distribution in one row of cells; a bin that is empty now and was not before shows as a dot."""
    most = max(counts, default=0)
    drawn = []
    for place, count in enumerate(counts):
        if count:
            level = max(1, round(count / most * (len(_LEVELS) - 1)))
            drawn.append(_LEVELS[level])
        else:
            drawn.append(GONE if place < len(was) and was[place] else " ")
    return "".join(drawn)
