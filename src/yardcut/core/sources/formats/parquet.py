"""Parquet files, row group by row group."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice
from typing import Any

from yardcut.core.sources.formats.arrow_batches import BATCH_ROWS, WINDOW_ROWS, BatchFile

_MOST_CODE_BYTES = 2.5


class ParquetTable(BatchFile):
    """One Parquet file; only the columns that are wanted are read."""

    what = "Parquet"
    _footer: Any = None

    def _look(self) -> tuple[Any, list[int]]:
        from pyarrow import parquet

        # not mapped: a mapped file that is cut short would end the process
        with parquet.ParquetFile(self.path) as file:
            self._footer = footer = file.metadata
            return file.schema_arrow, [footer.row_group(number).num_rows for number in range(footer.num_row_groups)]

    def _open(self, as_codes: list[str] | None = None) -> Any:
        from pyarrow import parquet

        # fetching ahead would take the memory of a whole column
        return parquet.ParquetFile(
            self.path,
            metadata=self._footer,
            page_checksum_verification=True,
            pre_buffer=False,
            buffer_size=1 << 20,
            read_dictionary=as_codes,
        )

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        with self._open(self._few_valued(roots)) as file:
            yield from file.iter_batches(BATCH_ROWS, columns=roots or None)

    def _few_valued(self, roots: list[str]) -> list[str]:
        """Return the columns of texts that the file keeps as codes of few bits: they are read as such."""
        found: list[str] = []
        footer = self._footer
        for place in range(footer.num_columns):
            column = footer.schema.column(place)
            if column.physical_type != "BYTE_ARRAY" or "." in column.path or (roots and column.path not in roots):
                continue
            sizes = [footer.row_group(group).column(place) for group in range(footer.num_row_groups)]
            values = sum(size.num_values for size in sizes)
            if sum(size.total_uncompressed_size for size in sizes) < _MOST_CODE_BYTES * values:
                found.append(column.path)
        return found

    def _window(self, group: int, roots: list[str], number: int) -> Any:
        with self._open() as file:
            # a group can only be read from its start; what is passed over takes no memory
            return next(islice(file.iter_batches(WINDOW_ROWS, row_groups=[group], columns=roots), number, None))
