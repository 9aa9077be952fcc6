"""A column that stays in its own file until something goes over all of it; a page of it is read straight from there."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Protocol

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_column import Column, ColumnInfo
from yardcut.core.table.vectors import Dictionary, Vector

_QUICK_ROWS = 1 << 16
DIRECT_ROWS = 1 << 13
"""A look at no more rows than this may go to the source's own file."""


GroupRange = tuple[int, int]
"""The least and the largest value of a column among some rows, each of which has one."""


class NotAsDeclaredError(Exception):
    """A column holds values that its kind does not: what it becomes is known when it was read whole."""


class GroupScan(Protocol):
    """Goes over columns in the source's own files, group by group, and stores nothing."""

    def groups(self) -> list[tuple[int, int]]:
        """Return the first row of each group, and the row behind its last."""

    def group_at(self, first_row: int) -> int:
        """Return the number of the group that begins at a row."""

    def ranges(self, numbers: Sequence[int], group: int) -> dict[int, GroupRange]:
        """Return the ranges of those columns of a group for which the file says them."""

    def vectors(
        self, numbers: Sequence[int], group: int, token: CancelToken
    ) -> Iterator[tuple[int, int, Mapping[int, Vector]]]:
        """Yield (first row, row behind the last, columns by number) for a group, some rows at a time.

        Raises ``SourceError``, ``StoppedError``, ``NotAsDeclaredError``.
        """

    def end(self) -> None:
        """Raise ``SourceError`` when the files are no longer those that were opened."""


class ColumnLoader(Protocol):
    """Reads columns of a source whose files allow it one by one; or ``leaves_unread`` what was not read at once."""

    leaves_unread: bool

    def load(self, numbers: list[int], token: CancelToken, progress: Progress | None) -> dict[int, ColumnInfo]:
        """Read columns into the store. Raises ``SourceError``, ``StoppedError``."""

    def is_worth_scanning(self, numbers: Sequence[int]) -> bool:
        """Tell whether to go over some columns in their files without storing them: once for each column."""

    def group_scan(self) -> GroupScan:
        """Return what goes over columns in their files."""

    def fetch(self, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress | None) -> bool:
        """Fetch some rows (int64 ids) of columns that stand anywhere; tell whether :meth:`cells` has them then.

        Raises ``SourceError``, ``StoppedError``.
        """

    def look_at(self, numbers: list[int], rows: Array) -> None:
        """Fetch some rows of several columns at once; :meth:`cells` is asked for them next. Raises ``SourceError``."""

    def cells(self, number: int, rows: Array) -> Vector | None:
        """Return some rows (int64 ids) of a column from the source's own file, or ``None`` when that would be slow."""


class UnreadColumn(Column):
    """Becomes a plain mapped column when it is loaded: by :meth:`load`, or at the first look at many rows."""

    def __init__(self, info: ColumnInfo, folder: Path, number: int, rows: int, loader: ColumnLoader) -> None:
        super().__init__(info, folder, number, rows)
        self._loader = loader
        self.is_loaded = False

    def load(self, token: CancelToken | None = None, progress: Progress | None = None) -> None:
        """Read the whole column if it has not been read yet."""
        if not self.is_loaded:
            self.use(self._loader.load([self.number], token or CancelToken(), progress)[self.number])

    def use(self, info: ColumnInfo) -> None:
        """Take what the store says of the column, now that its arrays are there."""
        self.info = info
        self.is_loaded = True

    @property
    def is_complete(self) -> bool:
        """True when every row has a value."""
        self.load()
        return super().is_complete

    @property
    def dictionary(self) -> Dictionary:
        """The distinct texts of a coded column."""
        self.load()
        return super().dictionary

    def missing_bits(self, first_row: int, end_row: int) -> Array | None:
        """Return one bit for each row without a value, from a row that is a multiple of 8 on; ``None``: nowhere."""
        self.load()
        return super().missing_bits(first_row, end_row)

    def slice(self, first_row: int, end_row: int) -> Vector:
        """Return rows ``first_row`` to ``end_row`` (excluded)."""
        if not self.is_loaded and end_row - first_row <= DIRECT_ROWS:
            direct = self._loader.cells(self.number, np.arange(first_row, end_row, dtype=np.int64))
            if direct is not None:
                return direct
        self.load()
        return super().slice(first_row, end_row)

    def take_at_once(self, row_ids: Array) -> Vector | None:
        """Return some rows, or ``None`` when the column would have to be read whole for them."""
        if not self.is_loaded and self.rows > _QUICK_ROWS:
            return self._loader.cells(self.number, np.asarray(row_ids, np.int64))
        return self.take(row_ids)

    def take(self, row_ids: Array) -> Vector:
        """Return the rows with the given ids (any integer dtype), in that order."""
        if not self.is_loaded and len(row_ids) <= DIRECT_ROWS:
            direct = self._loader.cells(self.number, np.asarray(row_ids, dtype=np.int64))
            if direct is not None:
                return direct
        self.load()
        return super().take(row_ids)


def load_columns(
    columns: list[Column], loader: ColumnLoader, token: CancelToken, progress: Progress | None = None
) -> None:
    """Read those of some columns that have not been read yet, all in one pass."""
    unread = [column for column in columns if isinstance(column, UnreadColumn) and not column.is_loaded]
    if unread:
        infos = loader.load([column.number for column in unread], token, progress)
        for column in unread:
            column.use(infos[column.number])
