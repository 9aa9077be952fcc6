"""Writing Arrow IPC files (the "file" format of the Arrow columnar specification), batch by batch."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.writers.formats.parquet import arrow_arrays, arrow_schema, list_in
from yardcut.core.writers.plans import Plan

_BATCH_ROWS = 1 << 17
_BATCH_CELLS = 1 << 23


def write_arrow(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as one Arrow file. Raises ``OSError``."""
    import pyarrow as pa

    schema = arrow_schema(piece, plan.carries)
    rows = rows_at_once(len(piece.columns), _BATCH_ROWS, _BATCH_CELLS)
    with pa.OSFile(str(path), "wb") as file, pa.ipc.new_file(file, schema) as writer:
        for _, vectors in piece.blocks(token, progress, rows):
            writer.write_batch(pa.record_batch(arrow_arrays(vectors), schema=schema))


def carried_list(path: Path) -> str | None:
    """Return the list that an Arrow file carries."""
    import pyarrow as pa

    with pa.memory_map(str(path)) as file:
        return list_in(pa.ipc.open_file(file).schema)


def count_rows(path: Path, plan: Plan) -> int:
    """Read an Arrow file back and count its rows."""
    import pyarrow as pa

    with pa.memory_map(str(path)) as file:
        reader = pa.ipc.open_file(file)
        return sum(reader.get_batch(number).num_rows for number in range(reader.num_record_batches))
