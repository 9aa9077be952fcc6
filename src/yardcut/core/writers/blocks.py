"""A slice in blocks of rows, as the writers take it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from yardcut.core.language.bound import ShownColumn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import Vector

BLOCK_ROWS = 1 << 16


@dataclass(frozen=True, slots=True, eq=False)
class Slice:
    """Rows and columns of a table, to be written."""

    table: Table
    rows: RowSet
    columns: Sequence[ShownColumn]

    def blocks(
        self, token: CancelToken, progress: Progress, block_rows: int = BLOCK_ROWS
    ) -> Iterator[tuple[list[int], list[Vector]]]:
        """Yield (row ids, one vector a column) for each block of rows, in order."""
        if self.rows.count > block_rows:  # fewer rows are fetched from where they stand
            self.table.load([column.column for column in self.columns], token, progress)
        progress.begin("writing", self.rows.count)
        for start in range(0, self.rows.count, block_rows):
            token.check()
            ids = self.rows.ids(start, start + block_rows)
            yield ids.tolist(), [self.table.columns[column.column].take(ids) for column in self.columns]
            progress.advance(len(ids))
