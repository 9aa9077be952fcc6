"""Draws by place: every k-th row, a range of positions, from one row to another."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import combine_parts
from yardcut.core.expressions.piece_rounds import AnswerRound
from yardcut.core.language.meaning.bound import BoundCondition
from yardcut.core.language.meaning.bound_parts import pieces_of
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.drawing.drawn import Drawn
from yardcut.core.ranking.grouping.many_groups import find_groups
from yardcut.core.ranking.taking import Ranking, TakeRound
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet


def draw_by_position(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
    """Draw every k-th row, or a range of positions; of each group by itself where there are groups."""
    draw = work.draw
    ids = rows.ids(0, rows.count)
    if work.groups:
        positions = _positions_in_groups(work, rows, ids, runner, token)
    else:
        positions = np.arange(1, len(ids) + 1)
    if draw.form == "rows":
        taken = (positions >= draw.start) & (positions <= draw.end)
    else:
        taken = (positions >= draw.start) & ((positions - draw.start) % int(draw.amount.written) == 0)
    return Drawn(rows.only(bit.of_ids(ids[taken], rows.table_rows)))


def draw_from_to(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
    """Draw the rows from the first of which one condition is true to the next of which another is, with both.

    Where either is true of no such row nothing is drawn, and that is said.
    """
    begins, ends = work.reach
    first = _first_position(begins, rows, 0, runner, token)
    if first is None:
        return Drawn(_none(rows), ("no row is the one to begin with, and so none is drawn",))
    last = rows.count - 1 if ends is None else _first_position(ends, rows, first, runner, token)
    if last is None:
        return Drawn(
            _none(rows), (f"from row {first + 1:,} on no row is the one to end with, and so none is drawn",)
        )  # fmt: skip
    return Drawn(
        rows.only(bit.of_ids(rows.ids(first, last + 1), rows.table_rows)),
        (f"rows {first + 1:,} to {last + 1:,} of {rows.count:,}",),
    )


def _first_position(
    condition: BoundCondition | None, rows: RowSet, start: int, runner: Runner, token: CancelToken
) -> int | None:
    """Return the first position from ``start`` on at which a condition is true, in the rows' present order."""
    if condition is None:
        return start if start < rows.count else None
    true = combine_parts(condition, runner.run(AnswerRound(tuple(pieces_of(condition))), token)).true
    ids = rows.ids(start, rows.count)
    found = np.flatnonzero(bit.unpack(true, 0, rows.table_rows)[ids])
    return start + int(found[0]) if len(found) else None


def _none(rows: RowSet) -> RowSet:
    return RowSet(rows.table_rows, np.zeros((rows.table_rows + 7) // 8, dtype=np.uint8))


def _positions_in_groups(work: BoundDraw, rows: RowSet, ids: Array, runner: Runner, token: CancelToken) -> Array:
    """Return each row's position within its group, from 1, in the rows' present order."""
    groups = find_groups(work.groups, rows, runner, token)
    everything = np.array(groups.counts)
    ranked = runner.run(
        TakeRound(everything, Ranking.PLACE, rows.bits, rows.places, values=work.groups, groups=groups),
        token,
    )
    starts = np.concatenate(([0], np.cumsum(groups.counts)[:-1]))
    position_of = np.zeros(rows.table_rows, dtype=np.int64)
    position_of[ranked.row_ids] = np.arange(len(ranked.row_ids)) - starts[ranked.group] + 1
    return position_of[ids]
