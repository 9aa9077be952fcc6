"""One page of cells, as text."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table


@dataclass(frozen=True, slots=True)
class Page:
    """Cells of some rows and columns: ``cells[c][r]`` is the text of a cell, ``None`` where there is no value."""

    first_position: int
    row_ids: tuple[int, ...]
    cells: tuple[tuple[str | None, ...], ...]


def read_page(table: Table, rows: RowSet, first: int, end: int, columns: Sequence[int]) -> Page:
    """Read the cells at positions ``first`` to ``end`` of a set of rows, for some columns of the table."""
    ids = rows.ids(first, end)
    cells = tuple(tuple(table.columns[column].take(ids).texts()) for column in columns)
    return Page(first, tuple(ids.tolist()), cells)
