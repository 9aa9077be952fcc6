"""Orders that nobody looks at: where the next line takes the first rows, only those are put in order."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.ranking.drawing.quotas import rounded_share
from yardcut.core.ranking.ordering.first_in_order import first_in_order
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.works.work import Tools, Worked
from yardcut.core.table.rowset import RowSet

_MOST_SHARE = 8
"""Taking more than an eighth of the rows is no quicker than sorting them all."""


def taken_next(lines: Sequence[BoundLine], index: int, rows: RowSet) -> int | None:
    """Return how many first rows the line behind an order takes, where that is all it needs the order for."""
    body = _body(lines, index)
    if not isinstance(body, BoundOrder) or not body.keys:
        return None
    following = next((at for at in range(index + 1, len(lines)) if not lines[at].off), len(lines))
    draw = _body(lines, following)
    if not isinstance(draw, BoundDraw) or draw.draw.form != "first" or draw.groups or draw.draw.remainder:
        return None
    amount = draw.draw.amount
    count = rounded_share(rows.count, amount.written) if amount.percent else int(amount.written)
    return count if 0 < count <= rows.count // _MOST_SHARE else None


def take_first(order: BoundOrder, count: int, rows: RowSet, tools: Tools) -> Worked:
    """Do the work of an order and of the draw of its first rows at once."""
    return Worked(first_in_order(order.keys, count, rows, tools.runner, tools.token, tools.progress))


def _body(lines: Sequence[BoundLine], index: int) -> object:
    bound = lines[index].bound if index < len(lines) else None
    return None if bound is None else bound.body
