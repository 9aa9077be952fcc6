"""Parquet files, row group by row group."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from yardcut.core.sources.formats.arrow_batches import BATCH_ROWS, BatchFile


class ParquetTable(BatchFile):
    """One Parquet file; only the columns that are wanted are read."""

    what = "Parquet"

    def _look(self) -> tuple[Any, int]:
        from pyarrow import parquet

        with parquet.ParquetFile(self.path, memory_map=True) as file:
            return file.schema_arrow, file.metadata.num_rows

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        from pyarrow import parquet

        with parquet.ParquetFile(self.path, memory_map=True) as file:
            yield from file.iter_batches(BATCH_ROWS, columns=roots or None)
