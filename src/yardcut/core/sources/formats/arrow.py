"""Arrow IPC files (also called Feather, version 2)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from yardcut.core.sources.formats.arrow_batches import BATCH_ROWS, BatchFile


class ArrowTable(BatchFile):
    """One Arrow IPC file, mapped."""

    what = "Arrow"

    def _look(self) -> tuple[Any, int]:
        import pyarrow as pa

        with pa.memory_map(str(self.path)) as mapped, pa.ipc.open_file(mapped) as file:
            return file.schema, sum(file.get_batch(number).num_rows for number in range(file.num_record_batches))

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        import pyarrow as pa

        with pa.memory_map(str(self.path)) as mapped, pa.ipc.open_file(mapped) as file:
            for number in range(file.num_record_batches):
                batch = file.get_batch(number)
                for start in range(0, batch.num_rows, BATCH_ROWS):
                    yield batch.slice(start, BATCH_ROWS)
