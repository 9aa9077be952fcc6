"""The profile of every column beside one np.sort a numeric column, and the store's size beside the text's."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from benchmarks.measuring import Measured, compare
from yardcut.core.expressions.frame import source_frame
from yardcut.core.profile.summary import summarise
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector


def profile(table: Table) -> Measured:
    """Measure the summaries of all columns."""
    runner = LocalRunner(table)

    def ours() -> None:
        for column in source_frame(table).columns:
            summarise(column, RowSet(table.rows), runner, CancelToken())

    def yardstick() -> None:
        for column in table.columns:
            vector = column.slice(0, table.rows)
            if isinstance(vector, NumericVector):
                np.sort(vector.values)

    return compare("profile of all columns", ours, "np.sort of each number", yardstick, 2, tries=1)


def store_size(table: Table, path: Path) -> str:
    """Compare the store's bytes with the text's."""
    ratio = sum(file.stat().st_size for file in table.folder.iterdir()) / path.stat().st_size
    return f"store beside the text's size {'':20} ratio {ratio:6.2f}  {'holds' if ratio <= 1.2 else 'MISSES'} 1.2"
