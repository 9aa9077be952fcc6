"""Where the rows of a slice stand among those of its source that were read again."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

_MOST_RANKED_ROWS = 1 << 25


class RowsAgain:
    """The places of rows of a table among some rows of its source, which were read again in the source's order."""

    def __init__(self, rows: RowSet, table: Table) -> None:
        self._table = table
        self._ids: Array | None = None
        self._rank: Array | None = None
        if rows.bits is None:
            return
        ids = RowSet(rows.table_rows, rows.bits).ids(0, rows.count)
        if rows.order is None or rows.table_rows > _MOST_RANKED_ROWS:
            self._ids = ids
        else:  # four bytes a row of the table, and a tenth of the time
            self._rank = np.empty(rows.table_rows, dtype=np.uint32)
            self._rank[ids] = np.arange(len(ids), dtype=np.uint32)

    def places(self, row_ids: Array) -> Array:
        """Return the places of some rows (int64); on any thread."""
        ids = self._table.source_ids(row_ids)
        if self._rank is not None:
            ids = self._rank[ids]
        elif self._ids is not None:
            return np.searchsorted(self._ids, ids)
        return ids.astype(np.int64)
