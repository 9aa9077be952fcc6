"""The rows an expression is evaluated over: a stretch of a table, or rows from all over it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import Vector


@dataclass(frozen=True, slots=True)
class Span:
    """Rows ``first_row`` to ``end_row`` (excluded): a part of a round. Columns are mapped, nothing is copied."""

    table: Table
    first_row: int
    end_row: int

    def __len__(self) -> int:
        return self.end_row - self.first_row

    def column(self, number: int) -> Vector:
        """Return these rows of a column, numbered from 0."""
        return self.table.columns[number].slice(self.first_row, self.end_row)

    def missing(self, number: int) -> Array | None:
        """Return one bit for each row in which a column has no value; ``None``: nowhere."""
        if self.first_row % 8:
            mask = self.column(number).missing_mask()
            return None if mask is None else bit.pack(mask)
        return self.table.columns[number].missing_bits(self.first_row, self.end_row)

    @property
    def row_ids(self) -> Array:
        """The ids of the rows (int64)."""
        return np.arange(self.first_row, self.end_row, dtype=np.int64)


@dataclass(frozen=True, slots=True, eq=False)
class Scatter:
    """Rows by their ids, in any order: a page of the grid, a block of a writer, one row. Each column is taken once."""

    table: Table
    row_ids: Array
    _taken: dict[int, Vector] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.row_ids)

    def column(self, number: int) -> Vector:
        """Return these rows of a column, numbered from 0."""
        found = self._taken.get(number)
        if found is None:
            found = self._taken[number] = self.table.columns[number].take(self.row_ids)
        return found

    def is_at_hand(self, number: int) -> bool:
        """Tell whether these rows of a column are there without a long wait, and fetch them if so."""
        if number not in self._taken:
            found = self.table.columns[number].take_at_once(self.row_ids)
            if found is None:
                return False
            self._taken[number] = found
        return True

    def missing(self, number: int) -> Array | None:
        """Return one bit for each row in which a column has no value; ``None``: nowhere."""
        mask = self.column(number).missing_mask()
        return None if mask is None else bit.pack(mask)


@dataclass(frozen=True, slots=True, eq=False)
class Decoded:
    """Rows ``first_row`` to ``end_row`` (excluded) of which some columns were just read from their own file."""

    table: Table
    first_row: int
    end_row: int
    vectors: Mapping[int, Vector]

    def __len__(self) -> int:
        return self.end_row - self.first_row

    def column(self, number: int) -> Vector:
        """Return these rows of a column, numbered from 0."""
        found = self.vectors.get(number)
        return self.table.columns[number].slice(self.first_row, self.end_row) if found is None else found

    def missing(self, number: int) -> Array | None:
        """Return one bit for each row in which a column has no value; ``None``: nowhere."""
        mask = self.column(number).missing_mask()
        return None if mask is None else bit.pack(mask)

    @property
    def row_ids(self) -> Array:
        """The ids of the rows (int64)."""
        return np.arange(self.first_row, self.end_row, dtype=np.int64)


def row_numbers(window: Window) -> Array:
    """Return each row's number in the source (int64), from 1."""
    return window.table.source_ids(window.row_ids).astype(np.int64) + 1


Window = Span | Scatter | Decoded
