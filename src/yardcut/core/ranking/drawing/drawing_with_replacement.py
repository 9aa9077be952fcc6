"""Draws with replacement: each of n rows is drawn from all of them anew, so that one may be drawn several times.

Draw number ``j`` (from 0, group after group in order of first appearance) has ``u``, output number ``j`` of SplitMix64
started at ``mix(mix(seed) ^ (2^64 - 1))``: a file number that no file has. Of ``m`` rows in the table's order it takes
number ``floor(u * m / 2^64)``, which favours no row by more than ``m / 2^64`` of its chance. Weighted, it takes the
first row up to which the weights, added one after the other, are more than ``u``'s first 53 bits, as a part of 1, of
their sum (inversion: Devroye, Non-Uniform Random Variate Generation, 1986, III.2.1).
"""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.weighting import weights_of
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.ranking.hashing import row_ranks_between
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

MOST_DRAWN = 100_000_000
_NO_FILE = (1 << 64) - 1
_HALF = np.uint64(32)
_LOW = np.uint64((1 << 32) - 1)
_STEP = 2.0**-53


def copies_drawn(
    work: BoundDraw, candidates: RowSet, groups: Groups, asked: Array, runner: Runner, token: CancelToken
) -> Array:
    """Return the ids of the rows drawn (uint32), each as often as it was, in the table's order.

    ``candidates`` are the rows that can be drawn, ``asked`` (int64) how many of each group are. Raises ``ListError``
    for more rows than can be held.
    """
    total = int(asked.sum())
    _check_count(work, total)
    ids = RowSet(candidates.table_rows, candidates.bits).ids(0, candidates.count)
    members = _Members()
    if work.groups or work.weight is not None:
        members = runner.run(_MemberRound(work.groups, groups, work.weight, candidates.bits), token)
    weights = members.weights
    if members.groups is not None:
        by_group = np.argsort(members.groups, kind="stable")
        ids, weights = ids[by_group], None if weights is None else weights[by_group]
    token.check()
    chance = row_ranks_between(work.draw.seed or 0, _NO_FILE, 0, total)
    group_of = np.repeat(np.arange(len(asked)), asked)
    ends = np.cumsum(groups.counts)
    starts = ends - groups.counts
    if weights is None:
        places = starts[group_of] + _part_of(chance, groups.counts[group_of].astype(np.uint64)).astype(np.int64)
    else:
        places = _by_weight(chance, _running_sums(work, weights), starts[group_of], ends[group_of])
    token.check()
    drawn: Array = ids[places]
    drawn.sort()
    return drawn


def _check_count(work: BoundDraw, total: int) -> None:
    if total > MOST_DRAWN:
        start, end = work.draw.amount.span
        raise ListError(
            f"a draw with replacement makes up to {MOST_DRAWN:,} rows, and this one {total:,}",
            start=start, end=end, mend=Mend(f"draw {MOST_DRAWN:,} or fewer"),
        )  # fmt: skip


def _running_sums(work: BoundDraw, weights: Array) -> Array:
    """Return the sums of the weights up to each, 0 first, added one after the other: the same on every processor."""
    sums: Array = np.concatenate(([0.0], np.cumsum(weights)))
    if not np.isfinite(sums[-1]):
        assert work.draw.weight is not None
        start, end = work.draw.weight.span
        raise ListError("these weights add up to more than a number can be", start=start, end=end,
                        mend=Mend("divide them by something"))  # fmt: skip
    return sums


def _part_of(chance: Array, counts: Array) -> Array:
    """Return ``floor(chance * counts / 2^64)`` exactly, for counts below 2^32."""
    low = ((chance & _LOW) * counts) >> _HALF
    part: Array = ((chance >> _HALF) * counts + low) >> _HALF
    return part


def _by_weight(chance: Array, sums: Array, starts: Array, ends: Array) -> Array:
    """Return the places of rows by the sums of the weights before each, between a start and an end (excluded)."""
    part = (chance >> np.uint64(11)).astype(np.float64) * _STEP
    reached = sums[starts] + part * (sums[ends] - sums[starts])
    places = np.searchsorted(sums, reached, side="right") - 1
    within: Array = np.clip(places, starts, ends - 1)
    return within


@dataclass(frozen=True, slots=True, eq=False)
class _Members:
    """The group (int64) and the weight (float64) of each member, in the table's order, where they are wanted."""

    groups: Array | None = None
    weights: Array | None = None


_State = dict[int, _Members]


@dataclass(frozen=True, slots=True, eq=False)
class _MemberRound(Round[_State, _Members]):
    """Gathers the groups and weights of the members."""

    groups: tuple[BoundValue, ...]
    found: Groups
    weight: BoundValue | None
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> _State:
        """Gather one part."""
        chosen = bit.positions(self.members, part.first_row, part.end_row)
        groups = weights = None
        if self.groups:
            groups = self.found.of_rows(self.groups, table, part.first_row, part.end_row, chosen)
        if self.weight is not None:
            weights = weights_of(self.weight, table, part.first_row, part.end_row)
            weights = weights if chosen is None else weights[chosen]
        return {part.first_row: _Members(groups, weights)}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return one | other

    def finish(self, state: _State) -> _Members:
        """Join the parts in the table's order."""
        parts = [state[start] for start in sorted(state)]
        groups = [each.groups for each in parts if each.groups is not None]
        weights = [each.weights for each in parts if each.weights is not None]
        return _Members(
            np.concatenate(groups) if self.groups else None,
            np.concatenate(weights) if self.weight is not None else None,
        )  # fmt: skip
