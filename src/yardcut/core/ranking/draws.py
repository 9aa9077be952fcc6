"""Carrying out a draw: which rows it takes, in which order, and what the report should say."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from yardcut.core.expressions.conditions import combine_parts
from yardcut.core.expressions.rounds import AnswerRound
from yardcut.core.language.bound import Absent, BoundValue, ColumnValue, Key, Piece, unwrapped
from yardcut.core.language.verbs.draw import BoundDraw
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.groups import GroupKey, GroupRound, Groups
from yardcut.core.ranking.hashing import chance_limit, table_ranks
from yardcut.core.ranking.planning import plan_top
from yardcut.core.ranking.taking import Ranking, TakeRound
from yardcut.core.scanning.parts import Part
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.table import Table
from yardcut.core.values.formatting import formatter

_RANKINGS = {"first": Ranking.PLACE, "last": Ranking.REVERSED_PLACE, "random": Ranking.CHANCE}


@dataclass(frozen=True, slots=True)
class Drawn:
    """The rows a draw takes; ``notes`` for the report; ``passed_over`` rows had no value to rank by."""

    rows: RowSet
    notes: tuple[str, ...] = ()
    passed_over: int = 0


def rounded_share(rows: int, percent: str) -> int:
    """Return a percentage of a number of rows, to the nearest row, halves up."""
    return int(rows * Fraction(percent) / 100 + Fraction(1, 2))


def draw_rows(
    work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None
) -> Drawn:
    """Carry out a draw on a set of rows."""
    draw = work.draw
    if draw.form == "chance":
        drawn = _by_chance(work, rows, runner, token)
    elif draw.form in ("every", "rows"):
        drawn = _by_position(work, rows, runner, token)
    else:
        drawn = _ranked(work, rows, runner, token, progress)
    if draw.remainder:
        return Drawn(rows.without(drawn.rows.member_bits()), drawn.notes, 0)
    return drawn


def _ranked(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None) -> Drawn:
    draw = work.draw
    notes: list[str] = []
    by_value = draw.form in ("top", "bottom")
    candidates, keys = rows, work.keys
    if by_value:
        first = Key(keys[0].value, draw.form == "top", False, keys[0].text)
        keys = (first, *keys[1:])
        candidates = _with_a_value(first.value, rows, runner, token)
    passed_over = rows.count - candidates.count
    if passed_over:
        have = "row has" if passed_over == 1 else "rows have"
        were = "was" if passed_over == 1 else "were"
        notes.append(f"{passed_over:,} {have} no {keys[0].text} and {were} passed over")
    groups = Groups(((),), np.array([candidates.count], dtype=np.int64))
    if work.groups:
        groups = runner.run(GroupRound(work.groups, candidates.bits, candidates.places), token)
    quotas = _quotas(work, groups)
    if not len(groups.keys) or not candidates.count:
        return Drawn(
            RowSet(rows.table_rows, np.zeros((rows.table_rows + 7) // 8, dtype=np.uint8)), tuple(notes), passed_over
        )
    plans = plan_top(keys, runner, token, progress) if by_value else ()
    ranking = _RANKINGS.get(draw.form, Ranking.KEYS)
    if progress is not None:
        progress.begin("ranking", runner.table.rows)
    take = TakeRound(
        quotas, ranking, candidates.bits, candidates.places, plans, draw.seed or 0, work.groups,
        groups.index() if work.groups else {}, draw.with_ties,
    )  # fmt: skip
    if ranking is Ranking.CHANCE:
        take = replace(take, limits=_likely_limits(quotas, groups.counts))
    taken = runner.run(take, token, progress)
    if len(taken.row_ids) < int(quotas.sum()):
        taken = runner.run(replace(take, limits=None), token, progress)
    notes += _tie_notes(draw.with_ties, int(taken.tied.sum())) if by_value else []
    notes += _short_notes(work, groups)
    if draw.form == "random":
        notes.append(f"seed {draw.seed}")
    if by_value:
        return Drawn(ordered(taken.row_ids, rows.table_rows), tuple(notes), passed_over)
    return Drawn(rows.only(bit.of_ids(taken.row_ids, rows.table_rows)), tuple(notes), passed_over)


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


def _likely_limits(quotas: Array, counts: Array) -> Array:
    """Return ranks that almost surely let enough rows of each group through, so that few need be looked at.

    Eight standard deviations above the expected rank; a draw that comes out short is made again without.
    """
    expected = quotas / np.maximum(counts, 1)
    share = np.minimum(expected + 8 * np.sqrt((expected + 1 / np.maximum(counts, 1)) / np.maximum(counts, 1)), 1.0)
    return np.array([min(int(part * 2.0**64), (1 << 64) - 1) for part in share.tolist()], dtype=np.uint64)


def _quotas(work: BoundDraw, groups: Groups) -> Array:
    amount = work.draw.amount
    if amount.percent:
        shares = [rounded_share(count, amount.written) for count in groups.counts.tolist()]
        return np.array(shares, dtype=np.int64)
    return np.minimum(groups.counts, int(amount.written))


def _tie_notes(with_ties: bool, tied: int) -> list[str]:
    if not tied:
        return []
    if with_ties:
        one = tied == 1
        return [
            f"{tied:,} more {'row ties' if one else 'rows tie'} at the edge and {'was' if one else 'were'} taken too"
        ]
    if tied == 1:
        return ["1 row that ties at the edge was left out; the earlier one won"]
    return [f"{tied:,} rows that tie at the edge were left out; the earlier ones won"]


def _short_notes(work: BoundDraw, groups: Groups) -> list[str]:
    """Name the groups smaller than the number asked for."""
    amount = work.draw.amount
    if amount.percent:
        return []
    wanted = int(amount.written)
    short = [
        f"{group_text(key, work)} has {count:,}"
        for key, count in zip(groups.keys, groups.counts.tolist(), strict=True)
        if count < wanted
    ]
    if not short:
        return []
    if not work.groups:
        there = int(groups.counts[0])
        return [f"there {'was only 1 row' if there == 1 else f'were only {there:,} rows'} to take {wanted:,} from"]
    listed = ", ".join(short[:5]) + (f" and {len(short) - 5:,} more" if len(short) > 5 else "")
    groups_are = "1 group is" if len(short) == 1 else f"{len(short):,} groups are"
    return [f"{groups_are} smaller than {wanted:,}: {listed}"]


def group_text(key: GroupKey, work: BoundDraw) -> str:
    """Return a group's values as the grid shows them."""
    words = []
    for part, value in zip(key, work.groups, strict=True):
        words.append("no value" if part is None else formatter(value.kind)(part))
    return " ".join(words)


_MOSTLY = 1.96
"""Standard deviations within which 95 of 100 draws stay."""


@dataclass(frozen=True, slots=True)
class _ChanceRound(Round[dict[int, Array], Array]):
    """Marks every row whose rank lies below a limit."""

    seed: int
    limit: int

    def scan(self, table: Table, part: Part) -> dict[int, Array]:
        """Mark the rows of one part."""
        ranks = table_ranks(self.seed, table, part.first_row, part.end_row)
        below = ranks < np.uint64(self.limit) if self.limit < 1 << 64 else np.ones(part.rows, dtype=np.bool_)
        return {part.first_row: bit.pack(below)}

    def merge(self, one: dict[int, Array], other: dict[int, Array]) -> dict[int, Array]:
        """Put parts side by side."""
        return one | other

    def finish(self, state: dict[int, Array]) -> Array:
        """Join the parts in the source's order."""
        return np.concatenate([state[start] for start in sorted(state)])


def _by_chance(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
    draw = work.draw
    written = Fraction(draw.amount.written)
    chance = 1 / written if draw.one_in else written / 100 if draw.amount.percent else written
    below = runner.run(_ChanceRound(draw.seed or 0, chance_limit(chance)), token)
    note = f"seed {draw.seed}; each row on its own, so another seed gives another count: {_usual(rows.count, chance)}"
    return Drawn(rows.only(below), (note,))


def _usual(rows: int, chance: Fraction) -> str:
    """Say how many of some rows a chance takes, and between which counts it stays 19 times in 20 (binomial)."""
    expected = rows * chance
    spread = _MOSTLY * math.sqrt(expected * (1 - chance))
    low, high = max(0, math.ceil(expected - spread)), min(rows, math.floor(expected + spread))
    return f"about {round(expected):,}, mostly {low:,} to {high:,}"


def _by_position(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
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


def _positions_in_groups(work: BoundDraw, rows: RowSet, ids: Array, runner: Runner, token: CancelToken) -> Array:
    """Return each row's position within its group, from 1, in the rows' present order."""
    groups = runner.run(GroupRound(work.groups, rows.bits, rows.places), token)
    everything = np.array(groups.counts)
    ranked = runner.run(
        TakeRound(everything, Ranking.PLACE, rows.bits, rows.places, values=work.groups, group_index=groups.index()),
        token,
    )
    starts = np.concatenate(([0], np.cumsum(groups.counts)[:-1]))
    position_of = np.zeros(rows.table_rows, dtype=np.int64)
    position_of[ranked.row_ids] = np.arange(len(ranked.row_ids)) - starts[ranked.group] + 1
    return position_of[ids]
