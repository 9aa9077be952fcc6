"""Reading only the columns that somebody looks at: the others stand in the table by name, and are never values."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.unread import GroupScan
from yardcut.core.table.vectors import Vector

Wanted = Callable[[Sequence[str]], frozenset[str] | None]
"""Tells of a source's columns, by name, which are to be read; ``None``: all."""


class NotReadError(Exception):
    """Values of a column are wanted that was left unread: what was begun is begun again with all columns."""


class NeverRead:
    """The loader of a table whose columns were read or never will be."""

    leaves_unread = True

    def load(self, numbers: list[int], token: CancelToken, progress: Progress | None) -> dict[int, ColumnInfo]:
        """Raise ``NotReadError``."""
        raise NotReadError

    def fetch(self, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress | None) -> bool:
        """Raise ``NotReadError``."""
        raise NotReadError

    def is_worth_scanning(self, numbers: Sequence[int]) -> bool:
        """Raise ``NotReadError``."""
        raise NotReadError

    def group_scan(self) -> GroupScan:
        """Raise ``NotReadError``."""
        raise NotReadError

    def look_at(self, numbers: list[int], rows: Array) -> None:
        """Raise ``NotReadError``."""
        raise NotReadError

    def cells(self, number: int, rows: Array) -> Vector | None:
        """Raise ``NotReadError``."""
        raise NotReadError
