"""The one ranked take: the best rows of each group by a key, found up to a running threshold and never by sorting all.

First and last rank by position, top and bottom by value, random by chance; the kernel is the same.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from yardcut.core.language.bound import BoundValue
from yardcut.core.ranking.fields import Field, KeyPlan
from yardcut.core.ranking.groups import GroupKey, local_groups
from yardcut.core.ranking.hashing import row_ranks
from yardcut.core.ranking.packing import pack_words
from yardcut.core.scanning.parts import Part
from yardcut.core.scanning.rounds import Round
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table

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


@dataclass(frozen=True, slots=True, eq=False)
class Taken:
    """What a ranked take found: row ids with the best first, group by group, and ties at the edge.

    ``tied`` counts, for each group, the rows equal to the last one taken that were left out (``split ties``) or taken
    beyond the quota (``with ties``).
    """

    row_ids: Array
    group: Array
    tied: Array


@dataclass(frozen=True, slots=True, eq=False)
class TakeRound(Round[Candidates, Taken]):
    """Takes the first ``quotas[g]`` members of each group ``g`` by their words, then by place.

    ``ranking`` says what the words are: "keys" by ``plans``, "chance" by ``seed``, "place" or "reversed place".
    """

    quotas: Array
    ranking: str
    members: Array | None
    places: Array | None = None
    plans: tuple[KeyPlan, ...] = ()
    seed: int = 0
    values: tuple[BoundValue, ...] = ()
    group_index: dict[GroupKey, int] = field(default_factory=dict)
    with_ties: bool = False
    limits: Any = None

    def scan(self, table: Table, part: Part) -> Candidates:
        """Find the candidates of one part."""
        mask = None if self.members is None else bit.unpack(self.members, part.first_row, part.end_row)
        rows = np.arange(part.first_row, part.end_row, dtype=np.int64)
        place = rows if self.places is None else self.places[part.first_row : part.end_row].astype(np.int64)
        fields = self._fields(table, part, rows, place)
        words = [values for values, _ in pack_words(fields)]
        if mask is not None:
            rows, place = rows[mask], place[mask]
            words = [word[mask] for word in words]
        group = np.zeros(len(rows), dtype=np.int64)
        if self.values:
            numbers, keys = local_groups(self.values, table, part.first_row, part.end_row, mask)
            lookup = np.array([self.group_index[key] for key in keys], dtype=np.int64)
            group = lookup[numbers] if len(numbers) else group
        found = Candidates(tuple(words), group, place, rows)
        if self.limits is not None:
            found = found.chosen(found.words[0] <= self.limits[group])
        return self._pruned(found)

    def _fields(self, table: Table, part: Part, rows: Array, place: Array) -> list[Field]:
        match self.ranking:
            case "chance":
                return [(row_ranks(self.seed, part.file_number, rows), 64)]
            case "place":
                return [(place.astype(np.uint64), 32)]
            case "reversed place":
                return [(np.uint64(0xFFFFFFFF) - place.astype(np.uint64), 32)]
        return [each for plan in self.plans for each in plan.fields(table, part.first_row, part.end_row)]

    def merge(self, one: Candidates, other: Candidates) -> Candidates:
        """Join two sets of candidates, letting go of those that can no longer be taken."""
        joined = Candidates(
            tuple(np.concatenate(pair) for pair in zip(one.words, other.words, strict=True)),
            np.concatenate((one.group, other.group)),
            np.concatenate((one.place, other.place)),
            np.concatenate((one.row_id, other.row_id)),
        )
        return self._pruned(joined)

    def _pruned(self, found: Candidates) -> Candidates:
        count = len(found.row_id)
        wanted = int(self.quotas.sum())
        if count <= 2 * wanted + _SLACK or count == 0:
            return found
        return found.chosen(found.words[0] <= self._limits(found)[found.group])

    def _limits(self, found: Candidates) -> Array:
        """Return, for each group, the first word of the last row its quota reaches (the worst while it is not full)."""
        if len(self.quotas) == 1:
            quota = int(self.quotas[0])
            if quota == 0:
                return np.zeros(1, dtype=np.uint64)
            if quota >= len(found.row_id):
                return np.full(1, _WORST)
            return np.partition(found.words[0], quota - 1)[quota - 1 : quota]
        order = np.lexsort((found.words[0], found.group))
        group = found.group[order]
        starts = np.searchsorted(group, np.arange(len(self.quotas) + 1))
        sizes = np.diff(starts)
        limits = np.full(len(self.quotas), _WORST)
        full = (sizes >= self.quotas) & (self.quotas > 0)
        limits[full] = found.words[0][order[starts[:-1][full] + self.quotas[full] - 1]]
        return limits

    def narrowed(self, state: Candidates) -> TakeRound:
        """Pass over, in the parts to come, what is worse than enough rows already found."""
        if len(state.row_id) < int(self.quotas.sum()):
            return self
        return replace(self, limits=self._limits(state))

    def finish(self, state: Candidates) -> Taken:
        """Rank the candidates within their groups and take each group's quota."""
        order = np.lexsort((state.place, *reversed(state.words), state.group))
        found = state.chosen(order)
        count = len(found.row_id)
        positions = np.arange(count)
        starts = np.searchsorted(found.group, np.arange(len(self.quotas)))
        within = positions - starts[found.group] if count else positions
        taken = within < self.quotas[found.group] if count else np.zeros(0, dtype=np.bool_)
        edge = np.zeros(count, dtype=np.bool_)
        if count:
            last = np.minimum(starts + self.quotas - 1, count - 1)
            whole = (self.quotas > 0) & (last >= starts)
            last_of = np.where(whole, last, 0)[found.group]
            edge = ~taken & whole[found.group] & (found.group[last_of] == found.group)
            for word in found.words:
                edge &= word == word[last_of]
        tied = np.bincount(found.group[edge], minlength=len(self.quotas))
        if self.with_ties:
            taken |= edge
        return Taken(found.row_id[taken].astype(np.uint32), found.group[taken], tied)
