"""One page of cells, as text."""

from __future__ import annotations

import contextlib
import logging
from collections.abc import Sequence
from dataclasses import dataclass

from yardcut.core.errors import SourceError
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table

_log = logging.getLogger(__name__)
UNREADABLE = "cannot be read"
WAITING = "…"


@dataclass(frozen=True, slots=True)
class Page:
    """Cells of some rows and columns: ``cells[c][r]`` is the text of a cell, ``None`` where there is no value.

    ``waiting`` are the numbers of columns that must be read whole first; their cells are ``WAITING``.
    """

    first_position: int
    row_ids: tuple[int, ...]
    cells: tuple[tuple[str | None, ...], ...]
    waiting: tuple[int, ...] = ()


def read_page(table: Table, rows: RowSet, first: int, end: int, columns: Sequence[int]) -> Page:
    """Read the cells at positions ``first`` to ``end`` of a set of rows, for some columns of the table, at once.

    A column that cannot be read, because its file is damaged or gone, says so in every cell.
    """
    ids = rows.ids(first, end)
    waiting: list[int] = []
    with contextlib.suppress(SourceError):  # each column says for itself that it cannot be read
        table.look_at(columns, ids)
    cells = tuple(_texts(table, column, ids, waiting) for column in columns)
    return Page(first, tuple(ids.tolist()), cells, tuple(waiting))


def _texts(table: Table, column: int, ids: Array, waiting: list[int]) -> tuple[str | None, ...]:
    try:
        found = table.columns[column].take_at_once(ids)
    except SourceError as error:
        _log.warning("column %d cannot be read: %s", column + 1, error)
        return (UNREADABLE,) * len(ids)
    if found is None:
        waiting.append(column)
        return (WAITING,) * len(ids)
    return tuple(found.texts())
