"""Arrow IPC files (also called Feather, version 2)."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats.arrow_batches import BATCH_ROWS, WINDOW_ROWS, BatchFile
from yardcut.core.sources.spec import SourceSpec


class ArrowTable(BatchFile):
    """One Arrow IPC file. Not mapped: a mapped file that is cut short would end the process."""

    what = "Arrow"

    def _look(self) -> tuple[Any, list[int]]:
        import pyarrow as pa

        with pa.OSFile(str(self.path)) as source:
            with pa.ipc.open_file(source) as file:
                schema = file.schema
            # to learn how many rows a batch has, no more than one of its columns is read
            with pa.ipc.open_file(source, options=_only(0) if schema.names else None) as file:
                return schema, [file.get_batch(number).num_rows for number in range(file.num_record_batches)]

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        import pyarrow as pa

        with pa.OSFile(str(self.path)) as source:
            with pa.ipc.open_file(source) as file:
                places = _places(file.schema, roots)
            with pa.ipc.open_file(source, options=_only(*places) if roots else None) as file:
                for number in range(file.num_record_batches):
                    batch = file.get_batch(number)
                    for start in range(0, batch.num_rows, BATCH_ROWS):
                        yield batch.slice(start, BATCH_ROWS)

    def _group(self, group: int, roots: list[str]) -> Iterator[Any]:
        import pyarrow as pa

        with pa.OSFile(str(self.path)) as source:
            with pa.ipc.open_file(source) as file:
                places = _places(file.schema, roots)
            with pa.ipc.open_file(source, options=_only(*places)) as file:
                batch = file.get_batch(group)
                for start in range(0, batch.num_rows, BATCH_ROWS):
                    yield batch.slice(start, BATCH_ROWS)

    def _window(self, group: int, roots: list[str], number: int) -> Any:
        import pyarrow as pa

        with pa.OSFile(str(self.path)) as source:
            with pa.ipc.open_file(source) as file:
                places = _places(file.schema, roots)
            with pa.ipc.open_file(source, options=_only(*places)) as file:
                return file.get_batch(group).slice(number * WINDOW_ROWS, WINDOW_ROWS)


def _places(schema: Any, roots: list[str]) -> list[int]:
    """Return the places of columns by their names, of which several may have one."""
    return [place for root in roots for place in schema.get_all_field_indices(root)]


def _only(*places: int) -> Any:
    import pyarrow as pa

    return pa.ipc.IpcReadOptions(included_fields=list(places))


def arrow_files(path: Path, spec: SourceSpec, token: CancelToken) -> list[ArrowTable]:
    """Open a file as the table it is. Raises ``SourceError``."""
    return [ArrowTable(path, spec)]
