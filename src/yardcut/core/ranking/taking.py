"""The one ranked take: the best rows of each group by a key, found up to a running threshold and never by sorting all.

First and last rank by position, top and bottom by value, random by chance; the kernel is the same.
"""

from __future__ import annotations

from dataclasses import field, replace
from enum import Enum

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.weighting import may_pass, weighted_ranks, weights_of
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.ranking.hashing import table_ranks
from yardcut.core.ranking.ordering.fields import Field, KeyPlan
from yardcut.core.ranking.ordering.packing import pack_words, sort_positions
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import BLOCK_ROWS, Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Span

_SLACK = 4096
_WORST = np.uint64(0xFFFFFFFFFFFFFFFF)


@dataclass(frozen=True, slots=True, eq=False)
class Candidates:
    """Rows that may still be among the best: their words, group numbers, places and ids, all of one length."""

    words: tuple[Array, ...]
    group: Array
    place: Array
    row_id: Array

    def chosen(self, which: Array) -> Candidates:
        """Return some of the rows, by mask or positions."""
        return Candidates(tuple(word[which] for word in self.words), self.group[which], self.place[which],
                          self.row_id[which])  # fmt: skip


NO_CANDIDATES = Candidates((), *(np.zeros(0, dtype=np.int64) for _ in range(3)))


@dataclass(frozen=True, slots=True, eq=False)
class Taken:
    """What a ranked take found: row ids with the best first, group by group, and ties at the edge.

    ``tied`` counts, for each group, the rows equal to the last one taken that were left out (``split ties``) or taken
    beyond the quota (``with ties``).
    """

    row_ids: Array
    group: Array
    tied: Array


class Ranking(Enum):
    """By what rows are ranked."""

    KEYS = "values"
    CHANCE = "chance"
    WEIGHT = "chance, by weight"
    PLACE = "their order"
    REVERSED_PLACE = "their order, from the end"


_State = list[Candidates]


@dataclass(frozen=True, slots=True, eq=False)
class TakeRound(Round[_State, Taken]):
    """Takes the first ``quotas[g]`` members of each group ``g`` by their words, then by place.

    ``ranking`` says what the words are, made by ``plans``, or by ``seed`` and perhaps ``weight``.
    ``limits`` rules out, for each group, rows whose first word is larger.
    """

    quotas: Array
    ranking: Ranking
    members: Array | None = field(metadata=BIT_A_ROW)
    places: Array | None = field(default=None, metadata=ONE_A_ROW)
    plans: tuple[KeyPlan, ...] = ()
    seed: int = 0
    values: tuple[BoundValue, ...] = ()
    groups: Groups | None = None
    with_ties: bool = False
    limits: Array | None = None
    weight: BoundValue | None = None

    def scan(self, table: Table, part: Part) -> _State:
        """Find the candidates of one part. Without limits yet, its first block sets them for the rest."""
        if self.limits is None and part.rows > BLOCK_ROWS:
            head = replace(part, rows=BLOCK_ROWS)
            first = self.scan(table, head)
            rest = replace(part, first_row=head.end_row, rows=part.rows - BLOCK_ROWS)
            return self.merge(first, self.narrowed(first).scan(table, rest))
        members = bit.positions(self.members, part.first_row, part.end_row)
        quick = self._scan_by_weight(table, part, members) or self._scan_by_value(table, part, members)
        if quick is not None:
            return [quick]
        words = [values for values, _ in pack_words(self._fields(table, part))]
        if self.limits is not None:
            leading = words[0] if members is None else words[0][members]
            # the loosest limit first: only the few rows that pass it need their group
            passing = np.flatnonzero(leading <= self.limits.max(initial=0))
            chosen = passing if members is None else members[passing]
            group = self._groups(table, part, chosen)
            if group is not None:
                close = words[0][chosen] <= self.limits[group]
                chosen, group = chosen[close], group[close]
        else:
            chosen = np.arange(part.rows) if members is None else members
            group = self._groups(table, part, members)
        found = self._candidates(tuple(word[chosen] for word in words), group, chosen + part.first_row)
        return [self._pruned(found) if self.limits is None else found]

    def _groups(self, table: Table, part: Part, chosen: Array | None) -> Array | None:
        if not self.values or self.groups is None:
            return None
        return self.groups.of_rows(self.values, table, part.first_row, part.end_row, chosen)

    def _candidates(self, words: tuple[Array, ...], group: Array | None, rows: Array) -> Candidates:
        places = rows if self.places is None else self.places[rows].astype(np.int64)
        return Candidates(words, np.zeros(len(rows), dtype=np.int64) if group is None else group, places, rows)

    def _scan_by_weight(self, table: Table, part: Part, members: Array | None) -> Candidates | None:
        """Find the candidates of a weighted draw by a quick logarithm, and their ranks by the exact one."""
        if self.weight is None or self.limits is None:
            return None
        ranks = table_ranks(self.seed, table, part.first_row, part.end_row)
        weights = weights_of(self.weight, table, part.first_row, part.end_row)
        if members is not None:
            ranks, weights = ranks[members], weights[members]
        passing = may_pass(ranks, weights, self.limits[[int(np.argmax(self.limits))]])
        rows = passing if members is None else members[passing]
        words = weighted_ranks(ranks[passing], weights[passing])
        group = self._groups(table, part, rows)
        if group is not None:
            close = words <= self.limits[group]
            rows, group, words = rows[close], group[close], words[close]
        return self._candidates((words,), group, rows + part.first_row)

    def _scan_by_value(self, table: Table, part: Part, members: Array | None) -> Candidates | None:
        """Find the candidates by comparing a number with the limits; ``None`` where the key is of another make."""
        if self.limits is None or len(self.plans) != 1:
            return None
        plan = self.plans[0]
        thresholds = plan.thresholds(self.limits)
        if thresholds is None:
            return None
        vector = evaluate(plan.key.value, Span(table, part.first_row, part.end_row))
        assert isinstance(vector, NumericVector)
        values = vector.values if members is None else vector.values[members]
        descending = plan.key.descending
        loosest = thresholds.min() if descending else thresholds.max()
        passing = np.flatnonzero(values >= loosest if descending else values <= loosest)
        rows = passing if members is None else members[passing]
        group = self._groups(table, part, rows)
        if group is not None:
            found, reached = vector.values[rows], thresholds[group]
            close = found >= reached if descending else found <= reached
            rows, group = rows[close], group[close]
        words = tuple(word for word, _ in pack_words(plan.fields_of(vector, rows)))
        return self._candidates(words, group, rows + part.first_row)

    def _fields(self, table: Table, part: Part) -> list[Field]:
        if self.ranking is Ranking.KEYS:
            return [each for plan in self.plans for each in plan.fields(table, part.first_row, part.end_row)]
        if self.weight is not None:
            ranks = table_ranks(self.seed, table, part.first_row, part.end_row)
            return [(weighted_ranks(ranks, weights_of(self.weight, table, part.first_row, part.end_row)), 64)]
        if self.ranking is Ranking.CHANCE:
            return [(table_ranks(self.seed, table, part.first_row, part.end_row), 64)]
        rows = np.arange(part.first_row, part.end_row, dtype=np.uint64)
        place = rows if self.places is None else self.places[part.first_row : part.end_row].astype(np.uint64)
        return [(place if self.ranking is Ranking.PLACE else np.uint64(0xFFFFFFFF) - place, 32)]

    def merge(self, one: _State, other: _State) -> _State:
        """Join two sets of candidates; now and then those that can no longer be taken go."""
        joined = one + other
        if sum(len(some.row_id) for some in joined) > 3 * int(self.quotas.sum()) + _SLACK:
            return [self._pruned(_concatenated(joined))]
        return joined

    def _pruned(self, found: Candidates) -> Candidates:
        if len(found.row_id) <= 2 * int(self.quotas.sum()) + _SLACK:
            return found
        return found.chosen((found.words[0] <= self._limits(found)[found.group]) & (self.quotas > 0)[found.group])

    def _limits(self, found: Candidates) -> Array:
        """Return, for each group, the first word of the last row its quota reaches (the worst while it is not full)."""
        limits = np.full(len(self.quotas), _WORST)
        if len(self.quotas) == 1:
            quota = int(self.quotas[0])
            if 0 < quota <= len(found.row_id):
                limits[0] = np.partition(found.words[0], quota - 1)[quota - 1]
            return limits
        order = _sorted(found, 1)
        starts = np.searchsorted(found.group[order], np.arange(len(self.quotas) + 1))
        full = (np.diff(starts) >= self.quotas) & (self.quotas > 0)
        limits[full] = found.words[0][order[starts[:-1][full] + self.quotas[full] - 1]]
        return limits

    def narrowed(self, state: _State) -> TakeRound:
        """Pass over, in the parts to come, what is worse than enough rows already found."""
        count = sum(len(some.row_id) for some in state)
        wanted = int(self.quotas.sum())
        known_enough = self.limits is not None and (len(state) > 1 or count < wanted + _SLACK)
        if count < wanted or known_enough:
            return self
        return replace(self, limits=self._limits(_concatenated(state)))

    def finish(self, state: _State) -> Taken:
        """Rank the candidates within their groups and take each group's quota."""
        return best_of(sorted_best(_concatenated(state)), self.quotas, self.with_ties)

    def within_limits(self, state: _State) -> Candidates:
        """Return the candidates no worse than the last row each quota reaches, ties with it among them."""
        found = _concatenated(state)
        return found.chosen(found.words[0] <= self._limits(found)[found.group])


def sorted_best(found: Candidates) -> Candidates:
    """Return candidates by group, the best first."""
    return found.chosen(_sorted(found, len(found.words)))


def best_of(found: Candidates, quotas: Array, with_ties: bool) -> Taken:
    """Take the quota (int64) of each group from candidates in rank."""
    count = len(found.row_id)
    none = np.zeros(len(quotas), dtype=np.int64)
    if not count:
        return Taken(found.row_id.astype(np.uint32), found.group, none)
    starts = np.searchsorted(found.group, np.arange(len(quotas)))
    within = np.arange(count) - starts[found.group]
    taken = within < quotas[found.group]
    last = np.minimum(starts + quotas - 1, count - 1)
    last_of = np.where(quotas > 0, last, 0)[found.group]
    edge = ~taken & (quotas > 0)[found.group] & (found.group[last_of] == found.group)
    for word in found.words:
        edge &= word == word[last_of]
    tied = np.bincount(found.group[edge], minlength=len(quotas))
    if with_ties:
        taken |= edge
    return Taken(found.row_id[taken].astype(np.uint32), found.group[taken], tied)


def _concatenated(state: _State) -> Candidates:
    if len(state) == 1:
        return state[0]
    return Candidates(
        tuple(np.concatenate(words) for words in zip(*(some.words for some in state), strict=True)),
        np.concatenate([some.group for some in state]),
        np.concatenate([some.place for some in state]),
        np.concatenate([some.row_id for some in state]),
    )


def _sorted(found: Candidates, words: int) -> Array:
    """Return the order of candidates by group, by their first ``words`` words, and by place."""
    fields: list[Field] = [(word, 64) for word in found.words[:words]]
    groups = int(found.group.max(initial=0))
    if groups:
        fields.insert(0, (found.group.astype(np.uint64), groups.bit_length()))
    fields.append((found.place.astype(np.uint64), 32))
    return sort_positions(fields, len(found.row_id))
