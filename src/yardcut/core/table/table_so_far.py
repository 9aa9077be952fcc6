"""A table of the rows that were read so far, while the rest of its source is still being read."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from yardcut.core.errors import KnownLaterError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.checking import Checked
from yardcut.core.table.stored_column import Column, ColumnInfo
from yardcut.core.table.stored_table import Table, TableInfo
from yardcut.core.table.unread import GroupScan, UnreadColumn
from yardcut.core.table.vectors import Dictionary, Vector


class GrowingArray:
    """An array as it was at one moment; nothing of it is checked, since it was written a moment ago."""

    def __init__(self, array: Array) -> None:
        self._array = array

    def checked(self, first: int = 0, end: int | None = None) -> Array:
        """Return the whole array."""
        return self._array

    def checked_at(self, items: Array) -> Array:
        """Return the whole array."""
        return self._array


@dataclass(frozen=True, slots=True)
class PartsSoFar:
    """What is there of a column: what a manifest would say, its arrays by part, mapped when wanted, its dictionary.

    Without ``arrays`` the column is to be read again as another kind, and its values are known at the end.
    """

    info: ColumnInfo
    arrays: Mapping[str, Callable[[], Array]] | None
    words: Sequence[str] = ()


class ColumnSoFar(Column):
    """A column whose arrays go on growing behind the rows it has."""

    def __init__(self, parts: PartsSoFar, number: int, rows: int) -> None:
        super().__init__(parts.info, Path(), number, rows)
        self._parts = parts
        self._dictionary: Dictionary | None = None

    def _map(self, part: str, dtype: str, count: int) -> Checked:
        assert self._parts.arrays is not None
        return GrowingArray(self._parts.arrays[part]())

    @property
    def dictionary(self) -> Dictionary:
        """The distinct texts of a coded column."""
        if self._dictionary is None:
            self._dictionary = Dictionary(list(self._parts.words))
        return self._dictionary


class KnownAtTheEnd:
    """The loader of columns that are to be read again as another kind: nobody can have their values before."""

    leaves_unread = False

    def __init__(self, names: Mapping[int, str]) -> None:
        self._names = names

    def load(self, numbers: list[int], token: CancelToken, progress: Progress | None) -> dict[int, ColumnInfo]:
        """Raise ``KnownLaterError``."""
        raise KnownLaterError(
            f"{self._names[numbers[0]]} turned out to be of another kind than it looked: its values are known when all "
            "of the file is read"
        )

    def fetch(self, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress | None) -> bool:
        """Nothing can be fetched, and nothing read."""
        return True

    def is_worth_scanning(self, numbers: Sequence[int]) -> bool:
        """Nothing can be gone over."""
        return False

    def group_scan(self) -> GroupScan:
        """Nothing can be gone over."""
        raise NotImplementedError

    def look_at(self, numbers: list[int], rows: Array) -> None:
        """Fetch nothing."""

    def cells(self, number: int, rows: Array) -> Vector | None:
        """Return nothing: no cell is there yet."""
        return None


class ColumnAtTheEnd(UnreadColumn):
    """A column of which not even a page can be shown."""

    def take_at_once(self, row_ids: Array) -> Vector | None:
        """Return nothing."""
        return None


class TableSoFar(Table):
    """The first rows of a source whose reading goes on. ``share_read`` is the part of the source they are, below 1."""

    def __init__(self, info: TableInfo, folder: Path, parts: Sequence[PartsSoFar], share_read: float) -> None:
        names = {number: each.info.name for number, each in enumerate(parts) if each.arrays is None}
        super().__init__(info, folder, KnownAtTheEnd(names) if names else None)
        self.share_read = min(share_read, 0.99)
        self.columns = [
            ColumnSoFar(each, number, info.rows)
            if each.arrays is not None
            else ColumnAtTheEnd(each.info, folder, number, info.rows, KnownAtTheEnd(names))
            for number, each in enumerate(parts)
        ]
