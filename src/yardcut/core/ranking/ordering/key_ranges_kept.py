"""Where the rows of a range of the key are kept while they are sorted: in memory, or in a file."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO, Protocol

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array


@dataclass(frozen=True, slots=True, eq=False)
class PackedRows:
    """Keys as words (uint64 or uint32), the most significant first, and the rows' numbers (uint32)."""

    words: tuple[Array, ...]
    row_ids: Array


class RangeRows(Protocol):
    """Rows in the order they were appended."""

    count: int

    @property
    def levels(self) -> int:
        """How many words a key has."""

    def append(self, rows: PackedRows) -> None:
        """Put rows behind those that are there. Raises ``OSError``."""

    def close(self) -> None:
        """End appending. Raises ``OSError`` where what was written last has no room."""

    def pieces(self, step: int = 1) -> Iterator[PackedRows]:
        """Yield the rows piece by piece, or every ``step``-th of each. Raises ``OSError``."""

    def all_rows(self) -> PackedRows:
        """Return all rows at once. Raises ``OSError``."""

    def drop(self) -> None:
        """Let the rows go."""


class RangeInMemory:
    """Keeps the pieces as they are."""

    def __init__(self) -> None:
        self._pieces: list[PackedRows] = []
        self.count = 0

    @property
    def levels(self) -> int:
        """How many words a key has."""
        return len(self._pieces[0].words)

    def append(self, rows: PackedRows) -> None:
        """Put rows behind those that are there."""
        self._pieces.append(rows)
        self.count += len(rows.row_ids)

    def close(self) -> None:
        """End appending."""

    def pieces(self, step: int = 1) -> Iterator[PackedRows]:
        """Yield the rows piece by piece, or every ``step``-th of each."""
        for rows in self._pieces:
            yield PackedRows(tuple(word[::step] for word in rows.words), rows.row_ids[::step])

    def all_rows(self) -> PackedRows:
        """Return all rows at once."""
        return joined(self._pieces)

    def drop(self) -> None:
        """Let the rows go."""
        self._pieces = []


class RangeOnDisk:
    """Writes a file: of each piece word after word, and then the numbers."""

    def __init__(self, file: BinaryIO, path: Path) -> None:
        self._path, self._file = path, file
        self._sizes: list[int] = []
        self._types: tuple[np.dtype[np.generic], ...] = ()
        self.count = 0

    @classmethod
    def new(cls, folder: Path) -> RangeOnDisk:
        """Return a new file in a folder. Raises ``OSError``."""
        handle, name = tempfile.mkstemp(prefix="range-", dir=folder)
        return cls(open(handle, "wb"), Path(name))

    @property
    def levels(self) -> int:
        """How many words a key has."""
        return len(self._types) - 1

    def append(self, rows: PackedRows) -> None:
        """Write rows behind those that are there. Raises ``OSError``."""
        arrays = (*rows.words, rows.row_ids)
        self._types = tuple(array.dtype for array in arrays)
        for array in arrays:
            self._file.write(np.ascontiguousarray(array).data)
        self._sizes.append(len(rows.row_ids))
        self.count += len(rows.row_ids)

    def close(self) -> None:
        """End writing. Raises ``OSError`` where what was written last has no room."""
        self._file.close()

    def pieces(self, step: int = 1) -> Iterator[PackedRows]:
        """Yield the rows piece by piece, or every ``step``-th of each. Raises ``OSError``."""
        with open(self._path, "rb") as file:
            for size in self._sizes:
                arrays = [np.frombuffer(file.read(size * each.itemsize), each)[::step] for each in self._types]
                yield PackedRows(tuple(arrays[:-1]), arrays[-1])

    def all_rows(self) -> PackedRows:
        """Return all rows at once. Raises ``OSError``."""
        arrays = [np.empty(self.count, each) for each in self._types]
        start = 0
        for some in self.pieces():
            end = start + len(some.row_ids)
            for array, piece in zip(arrays, (*some.words, some.row_ids), strict=True):
                array[start:end] = piece
            start = end
        return PackedRows(tuple(arrays[:-1]), arrays[-1])

    def drop(self) -> None:
        """Take the file away."""
        self._path.unlink(missing_ok=True)


def joined(pieces: list[PackedRows]) -> PackedRows:
    """Return the rows of some pieces as one."""
    if len(pieces) == 1:
        return pieces[0]
    words = tuple(np.concatenate(same) for same in zip(*(rows.words for rows in pieces), strict=True))
    return PackedRows(words, np.concatenate([rows.row_ids for rows in pieces]))
