"""Saving what reading left out: dropped rows and values set aside, with their places, or the rows as they stood."""

from __future__ import annotations

import csv
from collections.abc import Iterator

from yardcut.core.outgoing import Outgoing
from yardcut.core.sources.delimited_blocks.dropped import read_dropped
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.table.stored_table import Table

_HEADER = ("file", "line", "row", "column", "reason", "text")


def left_out(table: Table) -> tuple[int, int]:
    """Return how many rows were dropped, and how many values were set aside."""
    return table.info.dropped(), sum(column.info.set_aside for column in table.columns)


def write_left_out(table: Table, out: Outgoing) -> None:
    """Write what was left out; ``.txt`` holds the dropped rows alone, as they stood, anything else a table as CSV.

    ``row`` is a set-aside value's row in the table. Written beside the target and moved into place. Raises
    ``TargetError``.
    """
    with out.opened() as beside, open(beside, "w", encoding="utf-8", newline="") as file:
        if out.path.suffix == ".txt":
            file.writelines(row.text + "\n" for _, row in read_dropped(table.folder))
        else:
            writer = csv.writer(file, lineterminator="\n")
            writer.writerow(_HEADER)
            for name, row in read_dropped(table.folder):
                writer.writerow([name, row.line, "", "", row.reason, row.text])
            writer.writerows(_values(table))


def _values(table: Table) -> Iterator[list[object]]:
    labels = [file.label for file in table.info.files]
    for number, column in enumerate(table.columns):
        if column.info.set_aside:
            for value in read_set_aside(table.folder, number):
                yield [labels[value.file_number], value.line or "", value.row + 1, column.name,
                       f"no {column.kind}", value.text]  # fmt: skip
