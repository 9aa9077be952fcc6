"""The keys by which rows are sorted, encoded for any stretch of a table."""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.hashing import table_ranks
from yardcut.core.ranking.ordering.fields import Field, KeyPlan
from yardcut.core.ranking.ordering.key_ranges import packed
from yardcut.core.ranking.ordering.key_ranges_kept import PackedRows
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table

_SAMPLE_PIECES, _SAMPLE_ROWS = 256, 256


@dataclass(frozen=True, slots=True, eq=False)
class SortKeys:
    """The keys of the members of a set of rows, in source order.

    Without plans they are the rows' ranks by chance under ``seed``. ``places`` are the rows' present positions, which
    are then the last key.
    """

    plans: tuple[KeyPlan, ...]
    members: Array | None = field(metadata=BIT_A_ROW)
    places: Array | None = field(default=None, metadata=ONE_A_ROW)
    seed: int | None = None

    def encoded(self, table: Table, first_row: int, end_row: int) -> PackedRows:
        """Return those of the members that are among some rows of the table."""
        fields = self._fields(table, first_row, end_row)
        chosen = bit.positions(self.members, first_row, end_row)
        if chosen is None:
            return packed(fields, np.arange(first_row, end_row, dtype=np.uint32))
        return packed([(values[chosen], bits) for values, bits in fields], (chosen + first_row).astype(np.uint32))

    def _fields(self, table: Table, first_row: int, end_row: int) -> list[Field]:
        if self.seed is not None:
            fields = [(table_ranks(self.seed, table, first_row, end_row), 64)]
        else:
            fields = [field for plan in self.plans for field in plan.fields(table, first_row, end_row)]
        if self.places is not None:
            fields.append((self.places[first_row:end_row].astype(np.uint64), 32))
        return fields

    def samples(self, table: Table) -> list[PackedRows]:
        """Return a few of the members from all over the table."""
        step = max(_SAMPLE_ROWS, table.rows // _SAMPLE_PIECES // 8 * 8)
        starts = range(0, table.rows, step)
        return [self.encoded(table, first, min(first + _SAMPLE_ROWS, table.rows)) for first in starts]

    def bits(self, table: Table) -> int:
        """Return how many bits a key has."""
        return sum(bits for _, bits in self._fields(table, 0, min(8, table.rows)))

    def bytes_a_row(self, table: Table) -> int:
        """Return about how much memory sorting takes for each row, kept in memory: words, number, and once more."""
        words = self.encoded(table, 0, min(8, table.rows)).words
        return 2 * sum(word.itemsize for word in words) + 12
