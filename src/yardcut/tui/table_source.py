"""Grid pages from a table of the core."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from yardcut.core.expressions.frame import Frame, source_frame
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table
from yardcut.tui.widgets.grid.model import GridColumn, GridPage

if TYPE_CHECKING:
    from yardcut.core.run.results import LineResult


class TableSource:
    """Rows of a table, perhaps marked by what a line would take, perhaps with reasons as an offcut has them."""

    def __init__(
        self,
        frame: Frame,
        columns: Sequence[GridColumn],
        *,
        marked_by: LineResult | None = None,
        offcut_of: LineResult | None = None,
    ) -> None:
        self.columns = columns
        self.source_rows = frame.table.rows
        self._frame = frame
        self._table = frame.table
        self._rows = frame.rows
        self._marked_by = marked_by
        self._kept = marked_by.rows.member_bits() if marked_by is not None else None
        self.has_reasons = offcut_of is not None
        self._reason: Callable[[int], str] = lambda row_id: ""
        if offcut_of is not None:
            from yardcut.core.run.reasons import reason

            self._reason = lru_cache(maxsize=4096)(lambda row_id: reason(offcut_of, row_id))

    @classmethod
    def whole(cls, table: Table) -> TableSource:
        """Return all of a table as it was read. Needs nothing of the language, which takes its time to load."""
        columns = [GridColumn(column.name, column.kind.value, number) for number, column in enumerate(table.columns, 1)]
        return cls(source_frame(table), columns)

    @property
    def row_count(self) -> int:
        """How many rows there are."""
        return self._rows.count

    @property
    def rows(self) -> RowSet:
        """The rows shown."""
        return self._rows

    def page(self, first: int, end: int, columns: Sequence[int]) -> GridPage:
        """Read some rows of some columns."""
        page = self._frame.page(first, end, columns)
        marks = self._marks(page.row_ids) if self._kept is not None else ()
        reasons = [self._reason(row_id) for row_id in page.row_ids] if self.has_reasons else ()
        waiting = [column + 1 for column in page.waiting]
        return GridPage([row_id + 1 for row_id in page.row_ids], page.cells, marks, reasons, waiting)

    def _marks(self, row_ids: Sequence[int]) -> list[str]:
        assert self._kept is not None
        assert self._marked_by is not None
        ids = np.array(row_ids, dtype=np.int64)
        kept = _bits_at(self._kept, ids)
        unknown = self._marked_by.unknown
        for_want = _bits_at(unknown, ids) if unknown is not None else np.zeros(len(ids), dtype=np.bool_)
        return [
            "" if stays else "unknown" if empty else "goes"
            for stays, empty in zip(kept.tolist(), for_want.tolist(), strict=True)
        ]

    def position_of(self, source_row: int) -> int:
        """Return the position of a row by its number in the source (from 1), or of the next one there is."""
        return self._rows.position(max(0, min(source_row - 1, self._table.rows - 1)))


def _bits_at(bits: Array, ids: Array) -> Array:
    result: Array = (bits[ids // 8] >> (ids % 8).astype(np.uint8)) & 1 == 1
    return result
