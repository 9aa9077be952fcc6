"""Which group each row is of: one number a row, whatever the groups are told apart by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Any

import numpy as np

from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.groups import GroupKey, Groups
from yardcut.core.ranking.grouping.many_groups import find_groups
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import zeros
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table


@dataclass(frozen=True, eq=False)
class RowGroups:
    """The groups of a set of rows, in order of first appearance.

    ``numbers`` (one a row of the table, unsigned, as narrow as their number allows) means nothing for rows that are not
    of the set; ``counts`` (int64) are the rows of each group.
    """

    keys: Sequence[GroupKey]
    counts: Array
    numbers: Array
    rows: RowSet

    @property
    def size_bytes(self) -> int:
        """The memory that the numbers and counts take."""
        return int(self.numbers.nbytes + self.counts.nbytes)

    def __len__(self) -> int:
        return len(self.counts)


_State = list[tuple[int, Array]]


@dataclass(frozen=True, slots=True, eq=False)
class _NumberRound(Round[_State, Array]):
    """Writes down the number of each row's group."""

    values: tuple[BoundValue, ...]
    groups: Groups
    members: Array | None = field(metadata=BIT_A_ROW)
    rows: int

    def scan(self, table: Table, part: Part) -> _State:
        """Look at one part."""
        dtype = _narrowest(len(self.groups.counts))
        chosen = None if self.members is None else bit.positions(self.members, part.first_row, part.end_row)
        found = self.groups.of_rows(self.values, table, part.first_row, part.end_row, chosen)
        if chosen is None:
            return [(part.first_row, found.astype(dtype))]
        numbers = np.zeros(part.end_row - part.first_row, dtype)
        numbers[chosen] = found
        return [(part.first_row, numbers)]

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return [*one, *other]

    def finish(self, state: _State) -> Array:
        """Join the parts in the table's order; each is given up once it is copied."""
        joined = zeros(self.rows, _narrowest(len(self.groups.counts)))
        while state:
            first, numbers = state.pop()
            joined[first : first + len(numbers)] = numbers
        return joined


def _narrowest(groups: int) -> np.dtype[Any]:
    return np.min_scalar_type(max(0, groups - 1))


def group_rows(
    values: tuple[BoundValue, ...], rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None
) -> RowGroups:
    """Return the groups of rows by some values; all of them are one group where there are none.

    Raises ``StoppedError``.
    """
    if not values:
        return RowGroups([()], np.array([rows.count]), np.zeros(runner.table.rows, np.uint8), rows)
    if not rows.count:
        return RowGroups([], np.zeros(0, np.int64), np.zeros(runner.table.rows, np.uint8), rows)
    groups = find_groups(values, rows, runner, token, progress)
    numbers = groups.numbers
    if numbers is None:
        numbers = runner.run(_NumberRound(values, groups, rows.bits, runner.table.rows), token, progress)
    return RowGroups(groups.keys, np.asarray(groups.counts, np.int64), numbers, rows)
