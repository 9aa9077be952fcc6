"""Carrying out a draw: which rows it takes, in which order, and what the report should say."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.evaluating import combine_parts
from yardcut.core.expressions.piece_rounds import AnswerRound
from yardcut.core.language.meaning.bound import Absent, BoundValue, ColumnValue, Key, Piece
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.drawing.draw_notes import passed_over_notes, tie_notes
from yardcut.core.ranking.drawing.drawing_by_chance import draw_by_chance
from yardcut.core.ranking.drawing.drawing_by_place import draw_by_position, draw_from_to
from yardcut.core.ranking.drawing.drawing_with_replacement import copies_drawn
from yardcut.core.ranking.drawing.drawn import Drawn, Quotas
from yardcut.core.ranking.drawing.quotas import likely_limits, quotas_of, up_to_part
from yardcut.core.ranking.drawing.ranked import KnownRanks, Ranked, RankRound, further
from yardcut.core.ranking.drawing.telling_strata import short_group_notes, strata_of
from yardcut.core.ranking.drawing.weighting import WeightRound
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.ranking.grouping.many_groups import find_groups
from yardcut.core.ranking.ordering.planning import plan_top
from yardcut.core.ranking.taking import NO_CANDIDATES, Candidates, Ranking, TakeRound
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.stored_table import Table

_RANKINGS = {
    "first": Ranking.PLACE, "last": Ranking.REVERSED_PLACE, "random": Ranking.CHANCE, "stratified": Ranking.CHANCE,
    "part": Ranking.CHANCE,
}  # fmt: skip


def draw_rows(
    work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None,
    known: KnownRanks | None = None,
) -> Drawn:  # fmt: skip
    """Carry out a draw on a set of rows; of ranks that are ``known`` no row is looked at again.

    Raises ``ListError`` where the values it meets make no draw.
    """
    draw = work.draw
    if draw.form == "chance":
        drawn = draw_by_chance(work, rows, runner, token)
    elif draw.form in ("every", "rows"):
        drawn = draw_by_position(work, rows, runner, token)
    elif draw.form == "from":
        drawn = draw_from_to(work, rows, runner, token)
    elif draw.with_replacement:
        drawn = _with_replacement(work, rows, runner, token)
    else:
        drawn = _ranked(work, rows, runner, token, progress, known or KnownRanks())
    if draw.remainder:
        # of a group that has rows without a value too, it is not known how many are left
        is_known = not drawn.passed_over and drawn.copied is None
        left = tuple(replace(each, drawn=each.there - each.drawn) for each in drawn.strata) if is_known else ()
        return Drawn(rows.without(drawn.rows.member_bits()), drawn.notes, 0, left)
    return drawn


def _ranked(
    work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None, known: KnownRanks
) -> Drawn:  # fmt: skip
    draw, key = work.draw, _ranks_by(work)
    by_value = draw.form in ("top", "bottom")
    ranked = known.get(runner.table, rows, key) or _unranked(work, rows, runner, token)
    candidates, notes, groups = ranked.candidates, list(ranked.notes), ranked.groups
    passed_over = rows.count - candidates.count
    quotas = quotas_of(work, groups)
    if not len(groups.keys) or not candidates.count:
        nothing = RowSet(rows.table_rows, np.zeros((rows.table_rows + 7) // 8, dtype=np.uint8))
        return Drawn(nothing, tuple(notes), passed_over, strata_of(work, groups, quotas, quotas.given))
    taken = ranked.taken(quotas.given, with_ties=draw.with_ties)
    if taken is None:
        take = _take_of(work, quotas.given, candidates, groups, runner, token, progress)
        if ranked.reach.any():  # its number is being nudged: the next ones are likely to be asked for too
            take = further(take, groups.counts)
        ranked = replace(ranked, best=_best(take, groups, runner, token, progress), reach=take.quotas)
        known.put(runner.table, rows, key, ranked)
        taken = ranked.taken(quotas.given, with_ties=draw.with_ties)
        assert taken is not None
    notes += tie_notes(draw.with_ties, int(taken.tied.sum())) if by_value else []
    notes += short_group_notes(work, groups, quotas)
    notes += [f"seed {draw.seed}"] if draw.is_by_chance else []
    drawn = np.bincount(taken.group, minlength=len(groups.keys))
    if by_value:
        strata = strata_of(work, groups, quotas, drawn)
        return Drawn(ordered(taken.row_ids, rows.table_rows), tuple(notes), passed_over, strata)
    members = bit.of_ids(taken.row_ids, rows.table_rows)
    if draw.form == "part":
        before = up_to_part(work, groups, int(draw.amount.written) - 1)
        earlier = ranked.taken(before, with_ties=False)
        assert earlier is not None  # a part ends where it begins or further on
        members &= ~bit.of_ids(earlier.row_ids, rows.table_rows)
        drawn, quotas = drawn - before, Quotas(quotas.asked - before, quotas.given - before)
    strata = strata_of(work, groups, quotas, drawn)
    return Drawn(rows.only(members), tuple(notes), passed_over, strata)


def _with_replacement(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
    unranked = _unranked(work, rows, runner, token)
    candidates, groups = unranked.candidates, unranked.groups
    asked = np.where(groups.counts > 0, quotas_of(work, groups).asked, 0)
    copied = copies_drawn(work, candidates, groups, asked, runner, token)
    drawn = rows.only(bit.of_ids(copied, rows.table_rows))
    different = f"{drawn.count:,} different {'row' if drawn.count == 1 else 'rows'}"
    notes = [*unranked.notes, different] + ([f"seed {work.draw.seed}"] if work.draw.is_by_chance else [])
    strata = strata_of(work, groups, Quotas(asked, asked), asked)
    return Drawn(drawn, tuple(notes), rows.count - candidates.count, strata, copied)


def _unranked(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Ranked:
    """Return the rows that can be ranked and their groups, with no rank known yet."""
    candidates, notes = _candidates(work, rows, runner, token)
    groups = Groups(((),), np.array([candidates.count], dtype=np.int64))
    if work.groups:
        groups = find_groups(work.groups, candidates, runner, token)
    return Ranked(candidates, tuple(notes), groups, NO_CANDIDATES, np.zeros(len(groups.keys), dtype=np.int64))


def _ranks_by(work: BoundDraw) -> Hashable:
    """Return what makes the ranks of a draw, whatever number of rows it takes."""
    draw = work.draw
    seed = draw.seed if draw.is_by_chance else None
    direction = draw.form if draw.form in ("top", "bottom") else _RANKINGS.get(draw.form)
    return direction, work.keys, work.groups, work.weight, seed


def _take_of(
    work: BoundDraw, quotas: Array, candidates: RowSet, groups: Groups, runner: Runner, token: CancelToken,
    progress: Progress | None,
) -> TakeRound:  # fmt: skip
    draw = work.draw
    plans = plan_top(_keys(work), runner, token, progress) if draw.form in ("top", "bottom") else ()
    ranking = Ranking.WEIGHT if work.weight is not None else _RANKINGS.get(draw.form, Ranking.KEYS)
    return TakeRound(
        quotas, ranking, candidates.bits, candidates.places, plans, draw.seed or 0, work.groups,
        groups, draw.with_ties, weight=work.weight,
    )  # fmt: skip


def _keys(work: BoundDraw) -> tuple[Key, ...]:
    """Return the keys of a top or bottom, the first in the direction its form says."""
    first = work.keys[0]
    return (Key(first.value, work.draw.form == "top", False, first.text), *work.keys[1:])


def _best(take: TakeRound, groups: Groups, runner: Runner, token: CancelToken, progress: Progress | None) -> Candidates:
    if progress is not None:
        progress.begin("ranking", runner.table.rows)
    if take.ranking is Ranking.CHANCE:
        limited = replace(take, limits=likely_limits(take.quotas, groups.counts))
        best = runner.run(RankRound(limited), token, progress)
        if (np.bincount(best.group, minlength=len(take.quotas)) >= take.quotas).all():
            return best
    return runner.run(RankRound(replace(take, limits=None)), token, progress)


def _candidates(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> tuple[RowSet, list[str]]:
    """Return the rows that have a value to be ranked by, or a weight, and what is to be said of the rest."""
    if work.weight is not None:
        found = _with_a_weight(work, rows, runner, token)
        return found, passed_over_notes(rows.count - found.count, f"weight by {_weight_text(work)}")
    if work.draw.form not in ("top", "bottom"):
        return rows, []
    first = work.keys[0]
    found = _with_a_value(first.value, rows, runner, token)
    return found, passed_over_notes(rows.count - found.count, first.text)


def _with_a_weight(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> RowSet:
    """Return the rows with a weight above zero. Raises ``ListError`` for weights that are negative or infinite."""
    assert work.weight is not None
    weights = runner.run(WeightRound(work.weight, rows.bits), token)
    if weights.wrong >= 0:
        assert work.draw.weight is not None
        start, end = work.draw.weight.span
        row = int(runner.table.source_ids(np.array([weights.wrong]))[0]) + 1
        whose = "the source" if runner.table.leads_to_source else "those put together"
        raise ListError(
            f"weights are zero or more and finite, and {_weight_text(work)} is not so in row {row:,} of {whose}",
            start=start, end=end, mend=Mend("keep the rows with a weight that can be one"),
        )  # fmt: skip
    return rows.only(weights.some)


def _weight_text(work: BoundDraw) -> str:
    assert work.draw.weight is not None
    return expression_text(work.draw.weight)


def _with_a_value(value: BoundValue, rows: RowSet, runner: Runner, token: CancelToken) -> RowSet:
    """Return the rows that have a value to be ranked by."""
    if _is_complete(value, runner.table):
        return rows
    absent = Piece(Absent(value))
    return rows.without(combine_parts(absent, runner.run(AnswerRound((absent,)), token)).true)


def _is_complete(value: BoundValue, table: Table) -> bool:
    """Return whether every row is known to have a value."""
    plain = unwrapped(value)
    return isinstance(plain, ColumnValue) and table.columns[plain.column].is_complete
