"""What a line leaves: rows of a table, and the columns shown of them. Grid, writers, reasons and report take it."""

from __future__ import annotations

import contextlib
import hashlib
import logging
from collections.abc import Iterator, Sequence
from dataclasses import replace
from weakref import WeakKeyDictionary

from yardcut.core.errors import SourceError
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue, ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import Vector
from yardcut.core.table.window import Scatter

_log = logging.getLogger(__name__)
BLOCK_ROWS = 1 << 16
_BLOCK_CELLS = 1 << 20
UNREADABLE = "cannot be read"
WAITING = "…"


@dataclass(frozen=True, slots=True)
class Page:
    """Cells of some rows and columns: ``cells[c][r]`` is the text of a cell, ``None`` where there is no value.

    ``waiting`` are the numbers (from 0) of columns of the table that must be read whole first; the cells that need
    them are ``WAITING``.
    """

    first_position: int
    row_ids: tuple[int, ...]
    cells: tuple[tuple[str | None, ...], ...]
    waiting: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Frame:
    """Rows and columns of a table."""

    table: Table
    rows: RowSet
    columns: tuple[ShownColumn, ...]

    def with_rows(self, rows: RowSet) -> Frame:
        """Return other rows of the same columns."""
        return replace(self, rows=rows)

    def page(self, first: int, end: int, places: Sequence[int]) -> Page:
        """Read the cells at positions ``first`` to ``end`` of some columns, given by place; at once.

        Computed columns are worked out for these rows alone.

        A column that cannot be read, because its file is damaged or gone, says so in every cell.
        """
        ids = self.rows.ids(first, end)
        columns = [self.columns[place] for place in places]
        window = Scatter(self.table, ids)
        waiting: list[int] = []
        with contextlib.suppress(SourceError):  # each column says for itself that it cannot be read
            self.table.look_at(columns_needed(columns), ids)
        cells = tuple(_texts(column.value, window, waiting) for column in columns)
        return Page(first, tuple(ids.tolist()), cells, tuple(dict.fromkeys(waiting)))

    def blocks(
        self, token: CancelToken, progress: Progress, block_rows: int | None = None
    ) -> Iterator[tuple[list[int], list[Vector]]]:
        """Yield (row ids, one vector a column) for each block of rows, in order."""
        for window in self.windows(self.columns, token, progress, block_rows):
            yield window.row_ids.tolist(), [evaluate(column.value, window) for column in self.columns]

    def windows(
        self, columns: Sequence[ShownColumn], token: CancelToken, progress: Progress, block_rows: int | None = None
    ) -> Iterator[Scatter]:
        """Yield each block of rows, in order, for some of the columns to be worked out of."""
        block_rows = block_rows or rows_at_once(len(self.columns))
        if self.rows.count > block_rows:
            self.table.load(columns_needed(columns), token, progress)
        else:  # few rows are fetched from where they stand
            self.table.fetch(columns_needed(columns), self.rows.ids(0, block_rows), token, progress)
        progress.begin("writing", self.rows.count)
        for start in range(0, self.rows.count, block_rows):
            token.check()
            window = Scatter(self.table, self.rows.ids(start, start + block_rows))
            yield window
            progress.advance(len(window))
            progress.rows += len(window)


def rows_at_once(columns: int, most_rows: int = BLOCK_ROWS, most_cells: int | None = None) -> int:
    """Return how many rows of so many columns make a block: very wide ones few, for the memory their cells take."""
    return max(1, min(most_rows, (most_cells or _BLOCK_CELLS) // max(1, columns)))


def source_scope(table: Table) -> Scope:
    """Return the columns of a table as the first line sees them."""
    known = _SCOPES.get(table)
    if known is None:  # of thousands of columns it takes its time
        known = _SCOPES[table] = _scope(table)
    return known


_SCOPES: WeakKeyDictionary[Table, Scope] = WeakKeyDictionary()


def _scope(table: Table) -> Scope:
    return Scope.of_source([(column.name, column.kind) for column in table.columns])


def source_frame(table: Table) -> Frame:
    """Return all of a table, as the first line meets it."""
    return Frame(table, RowSet(table.rows), source_scope(table).shown)


def source_fingerprint(table: Table) -> str:
    """Return what tells all rows of a table, in source order, from any other rows of any table."""
    return hashlib.blake2b(table.fingerprint.encode(), digest_size=16).hexdigest()


def columns_needed(columns: Sequence[ShownColumn]) -> list[int]:
    """Return the numbers (from 0) of the table's columns that some columns are made of, in order."""
    return list(dict.fromkeys(number for column in columns for number in sorted(columns_of(column.value))))


def _texts(value: BoundValue, window: Scatter, waiting: list[int]) -> tuple[str | None, ...]:
    try:
        absent = [number for number in columns_of(value) if not window.is_at_hand(number)]
        if not absent:
            return tuple(evaluate(value, window).texts())
    except SourceError as error:
        _log.warning("a column cannot be read: %s", error)
        return (UNREADABLE,) * len(window)
    waiting += absent
    return (WAITING,) * len(window)
