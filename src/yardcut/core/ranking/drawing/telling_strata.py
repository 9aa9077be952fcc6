"""What is said of the groups of a draw: the rows each has, was asked for and gave, and which have too few."""

from __future__ import annotations

import numpy as np

from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.ranking.drawing.draw_notes import short_notes
from yardcut.core.ranking.drawing.drawn import Quotas, Stratum
from yardcut.core.ranking.drawing.quotas import group_text
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.table.array_file import Array

_MOST_STRATA = 200_000
"""Of more groups none is told by itself: nobody reads them, and they would take the memory of the rows."""


def strata_of(work: BoundDraw, groups: Groups, quotas: Quotas, drawn: Array) -> tuple[Stratum, ...]:
    """Return the groups of a draw with the rows drawn of each; none where there are none to be told, or too many."""
    if not work.groups or len(groups.keys) > _MOST_STRATA:
        return ()
    numbers = zip(groups.keys, groups.counts.tolist(), quotas.asked.tolist(), drawn.tolist(), strict=True)
    return tuple(Stratum(key, group_text(key, work), there, asked, taken) for key, there, asked, taken in numbers)


def short_group_notes(work: BoundDraw, groups: Groups, quotas: Quotas) -> list[str]:
    """Name the groups smaller than the number asked for."""
    draw = work.draw
    short = np.flatnonzero(quotas.asked > groups.counts).tolist()
    total = int(quotas.given.sum())
    if draw.form == "stratified" and not short and draw.amount.written and total < int(draw.amount.written):
        return [f"there were only {total:,} rows to take {int(draw.amount.written):,} from"]
    if not short:
        return []
    if not work.groups:
        return short_notes(int(groups.counts[0]), int(quotas.asked[0]))
    wanted_of = {int(quotas.asked[each]) for each in short}
    one_wanted = f"{wanted_of.pop():,}" if len(wanted_of) == 1 else ""
    listed = ", ".join(
        f"{group_text(groups.keys[each], work)} has {int(groups.counts[each]):,}"
        + ("" if one_wanted else f" of {int(quotas.asked[each]):,}")
        for each in short[:5]
    ) + (f" and {len(short) - 5:,} more" if len(short) > 5 else "")
    groups_are = "1 group is" if len(short) == 1 else f"{len(short):,} groups are"
    return [f"{groups_are} smaller than {one_wanted or 'what is asked'}: {listed}"]
