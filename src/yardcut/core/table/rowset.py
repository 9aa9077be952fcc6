"""The rows a line leaves: which ones, and in which order. Never copied data."""

from __future__ import annotations

from dataclasses import field
from functools import cached_property

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array

_RANK_ROWS = 1 << 16


@dataclass(frozen=True, eq=False)
class RowSet:
    """A set of rows of a table of ``table_rows`` rows, in source order or in an order of its own.

    ``bits`` marks the members (``None``: all rows); ``order`` gives their row ids in order as uint32
    (``None``: source order). Where both are given they name the same rows.
    """

    table_rows: int
    bits: Array | None = None
    order: Array | None = None
    _count: int = field(default=-1)

    @cached_property
    def count(self) -> int:
        """The number of rows."""
        if self._count >= 0:
            return self._count
        if self.order is not None:
            return len(self.order)
        return self.table_rows if self.bits is None else bit.count(self.bits)

    def member_bits(self) -> Array:
        """Return one bit for each row of the table."""
        return bit.ones(self.table_rows) if self.bits is None else self.bits

    def mask(self, first_row: int, end_row: int) -> Array | None:
        """Return the members among some rows of the table as booleans, or ``None`` when all are."""
        return None if self.bits is None else bit.unpack(self.bits, first_row, end_row)

    @cached_property
    def _rank(self) -> Array:
        """Members before each block of 2^16 rows (int64), one longer than the number of blocks."""
        assert self.bits is not None
        step = _RANK_ROWS // 8
        padded = np.zeros(-(-len(self.bits) // step) * step, dtype=np.uint8)
        padded[: len(self.bits)] = self.bits
        counts = np.bitwise_count(padded.reshape(-1, step)).sum(axis=1, dtype=np.int64)
        return np.concatenate(([0], np.cumsum(counts)))

    def ids(self, first: int, end: int) -> Array:
        """Return the row ids at positions ``first`` to ``end`` (excluded, cut at the end).

        Complexity: O(end - first + 2^16), whatever the size of the set.
        """
        end = min(end, self.count)
        first = min(first, end)
        if self.order is not None:
            return self.order[first:end]
        if self.bits is None:
            return np.arange(first, end, dtype=np.uint32)
        found: list[Array] = []
        block = int(np.searchsorted(self._rank, first, side="right")) - 1
        while first < end:
            before = int(self._rank[block])
            start = block * _RANK_ROWS
            ids = np.flatnonzero(bit.unpack(self.bits, start, min(start + _RANK_ROWS, self.table_rows)))
            taken = ids[first - before : end - before]
            found.append((taken + start).astype(np.uint32))
            first += len(taken)
            block += 1
        return np.concatenate(found) if found else np.empty(0, dtype=np.uint32)

    def cut_points(self, members: int) -> list[int]:
        """Return rows of the table, from 0 to behind the last, between which about so many members stand.

        Multiples of 2^16 but for the last.
        """
        before = np.minimum(np.arange(0, self.table_rows + _RANK_ROWS, _RANK_ROWS), self.table_rows)
        if self.bits is not None:
            before = self._rank
        wanted = np.arange(members, before[-1], members)
        cuts = np.unique(np.searchsorted(before, wanted))
        rows = np.minimum(cuts * _RANK_ROWS, self.table_rows).tolist()
        return [0, *(row for row in rows if 0 < row < self.table_rows), self.table_rows]

    def position(self, row_id: int) -> int:
        """Return the position of a row, or of the first member behind it in source order; O(n) if ordered."""
        if self.order is not None:
            found = np.flatnonzero(self.order == row_id)
            return int(found[0]) if len(found) else 0
        if self.bits is None:
            return row_id
        block = row_id // _RANK_ROWS
        start = block * _RANK_ROWS
        inside = bit.unpack(self.bits, start, min(start + _RANK_ROWS, self.table_rows))
        return int(self._rank[block]) + int(np.count_nonzero(inside[: row_id - start]))

    @cached_property
    def places(self) -> Array | None:
        """Return each row's position in the order (uint32, one a row of the table), or ``None`` in source order.

        Rows that are not members have an arbitrary place.
        """
        if self.order is None:
            return None
        places = np.zeros(self.table_rows, dtype=np.uint32)
        places[self.order] = np.arange(len(self.order), dtype=np.uint32)
        return places

    def only(self, members: Array) -> RowSet:
        """Return the rows whose bit is one in ``members`` too, in the order they had."""
        kept = members if self.bits is None else self.bits & members
        if self.order is None:
            return RowSet(self.table_rows, kept)
        mask = bit.unpack(kept, 0, self.table_rows)
        return RowSet(self.table_rows, kept, self.order[mask[self.order]])

    def without(self, members: Array) -> RowSet:
        """Return the rows whose bit is zero in ``members``, in the order they had."""
        return self.only(bit.ones(self.table_rows) & ~members)


def ordered(ids: Array, table_rows: int) -> RowSet:
    """Return the set of the given row ids in the given order."""
    return RowSet(table_rows, bit.of_ids(ids, table_rows), ids.astype(np.uint32, copy=False))
