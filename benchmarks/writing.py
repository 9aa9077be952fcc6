"""Saving two million rows of ten million, beside pyarrow's writer on the same rows already gathered."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.measuring import Measured, compare
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.expressions.frame import Frame
from yardcut.core.outgoing import Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.formats.parquet import arrow_arrays, arrow_schema
from yardcut.core.writers.targets import Target, write_target

_PARTS = {
    "in the source's order": ("keep boards % 5 = 0",),
    "in another order": ("keep boards % 5 = 0", "order price_per_m3"),
    "with a made column": ("keep boards % 5 = 0", "make value = price_per_m3 * volume_m3"),
    "with a made column, in another order": (
        "keep boards % 5 = 0",
        "make value = price_per_m3 * volume_m3",
        "order price_per_m3",
    ),
}


def writing(table: Table, path: Path) -> Iterator[Measured]:
    """Yield, for each order of rows, our time and pyarrow's."""
    import pyarrow as pa
    from pyarrow import csv

    spec = SourceSpec((str(path),))
    with tempfile.TemporaryDirectory() as folder:
        for name, lines in _PARTS.items():
            results = list(Executor(LocalRunner(table)).run(Cut("", tuple(map(Line, lines)))))
            frame = results[-1].frame
            gathered = pa.Table.from_batches(
                [pa.record_batch(arrow_arrays(vectors), schema=arrow_schema(frame))
                 for _, vectors in frame.blocks(CancelToken(), Progress())]
            )  # fmt: skip
            out = Path(folder) / "slice.csv"

            def ours(frame: Frame = frame, out: Path = out) -> None:
                write_target(
                    frame, Target(out, replace=True), spec, Protected.of(spec.paths()), CancelToken(), Progress()
                )

            def theirs(gathered: pa.Table = gathered, folder: str = folder) -> None:
                csv.write_csv(gathered, f"{folder}/theirs.csv")

            yield compare(
                f"save {frame.rows.count:,} rows as csv, {name}",
                ours,
                "write_csv of the rows gathered",
                theirs,
                1.3,
                tries=3,
            )
