"""A Parquet file of the benchmark rows: opened at once, and a condition that reads only what it looks at."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

from benchmarks.engine import CONDITION, run
from benchmarks.measuring import Measured, compare, seconds
from yardcut.core.expressions.frame import source_frame
from yardcut.core.sources.opening_sources import open_table

_LOOKED_AT = ["moisture_pct", "length_mm", "price_per_m3", "grade"]


def parquet_file(path: Path) -> Path:
    """Return the benchmark file as Parquet, in row groups of about a million rows."""
    from pyarrow import csv, parquet

    other = path.with_suffix(".parquet")
    if not other.exists():
        partial = path.with_suffix(".partial")
        parquet.write_table(csv.read_csv(path), partial, row_group_size=1 << 20)
        partial.rename(other)
    return other


def on_demand(path: Path) -> Iterator[Measured]:
    """Measure opening with the first page, and the first condition beside pyarrow reading the same columns."""
    from pyarrow import parquet

    source = parquet_file(path)
    shutil.rmtree(open_table(source).folder, ignore_errors=True)

    def first_page() -> None:
        table = open_table(source)
        source_frame(table).page(0, 40, range(10))

    first_page()
    yield Measured("opening Parquet, first page", seconds(first_page), 0.3, "the limit itself", 1.0)

    def first_condition() -> None:
        table = open_table(source)
        run(table, CONDITION)
        shutil.rmtree(table.folder)

    yield compare(
        "first condition on Parquet", first_condition, "pyarrow reading its columns",
        lambda: parquet.read_table(source, columns=_LOOKED_AT), 10, tries=3,
    )  # fmt: skip
    table = open_table(source)
    run(table, CONDITION)
    unread = sum(not column.is_loaded for column in table.columns)
    yield Measured("columns stored for it, of 14", 14 - unread, len(_LOOKED_AT), "columns it looks at", 1.0)
    shutil.rmtree(table.folder)
