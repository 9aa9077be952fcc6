"""Parquet files, row group by row group."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from itertools import islice
from pathlib import Path
from typing import Any

from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats.arrow_batches import BATCH_ROWS, WINDOW_ROWS, BatchFile
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import EPOCH

_MOST_CODE_BYTES = 2.5


def _whole(value: Any) -> int | None:
    """Return a whole number as it is, a day as days since 1970-01-01."""
    if isinstance(value, datetime.date) and not isinstance(value, datetime.datetime):
        return value.toordinal() - EPOCH
    return value if isinstance(value, int) and not isinstance(value, bool) else None


class ParquetTable(BatchFile):
    """One Parquet file; only the columns that are wanted are read."""

    what = "Parquet"
    piece_bytes = 1 << 20
    _footer: Any = None

    def _where(self) -> Any:
        """Return what is opened; not mapped: a mapped file that is cut short would end the process."""
        return self.path

    def _look(self) -> tuple[Any, list[int]]:
        from pyarrow import parquet

        with parquet.ParquetFile(self._where()) as file:
            self._footer = footer = file.metadata
            return file.schema_arrow, [footer.row_group(number).num_rows for number in range(footer.num_row_groups)]

    def _open(self, as_codes: list[str] | None = None) -> Any:
        from pyarrow import parquet

        # fetching ahead would take the memory of a whole column
        return parquet.ParquetFile(
            self._where(),
            metadata=self._footer,
            page_checksum_verification=True,
            pre_buffer=False,
            buffer_size=self.piece_bytes,
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

    def _group(self, group: int, roots: list[str]) -> Iterator[Any]:
        with self._open(self._few_valued(roots)) as file:
            yield from file.iter_batches(BATCH_ROWS, row_groups=[group], columns=roots)

    def range_of(self, place: int, group: int) -> tuple[int, int] | None:
        """Return the least and the largest value of a group as its statistics have them; nulls make it unsure."""
        root, _ = self._leaves[place]
        name = self._roots[root]
        if self._roots.count(name) > 1 or self.kinds()[place] not in (Kind.INTEGER, Kind.DATE):
            return None
        rows = self._footer.row_group(group)
        at = next((at for at in range(rows.num_columns) if rows.column(at).path_in_schema == name), None)
        said = None if at is None else rows.column(at).statistics
        if said is None or not said.has_min_max or not said.has_null_count or said.null_count:
            return None
        low, high = (_whole(value) for value in (said.min, said.max))
        return None if low is None or high is None or low > high else (low, high)

    def _window(self, group: int, roots: list[str], number: int) -> Any:
        with self._open() as file:
            # a group can only be read from its start; what is passed over takes no memory
            return next(islice(file.iter_batches(WINDOW_ROWS, row_groups=[group], columns=roots), number, None))


def parquet_files(path: Path, spec: SourceSpec, token: CancelToken) -> list[ParquetTable]:
    """Open a file as the table it is. Raises ``SourceError``."""
    return [ParquetTable(path, spec)]
