"""Checking the files of a store: their sizes when it is opened, their content block by block at the first look."""

from __future__ import annotations

import zlib
from pathlib import Path
from typing import Protocol

import numpy as np

from yardcut.core.errors import Mend, SourceError, StoreDamagedError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array, map_array

BLOCK_BYTES = 1 << 18


@dataclass(frozen=True, slots=True)
class FileCheck:
    """What a file must hold: its size, and a CRC-32 (ISO/IEC 13239) of each block of ``BLOCK_BYTES``.

    Several arrays may stand in one ``pack``, each from its ``offset`` (bytes) on.
    """

    part: str
    size_bytes: int
    blocks: tuple[int, ...]
    pack: str = ""
    offset: int = 0


def checks_of(content: Array) -> tuple[int, ...]:
    """Return the CRC-32 of each block of some bytes."""
    return tuple(zlib.crc32(content[start : start + BLOCK_BYTES].data) for start in range(0, len(content), BLOCK_BYTES))


def check_of(path: Path, part: str) -> FileCheck:
    """Take the check of a finished file. About a second for each gigabyte."""
    blocks = []
    size = 0
    with open(path, "rb") as file:
        while block := file.read(BLOCK_BYTES):
            blocks.append(zlib.crc32(block))
            size += len(block)
    return FileCheck(part, size, tuple(blocks))


class Checked(Protocol):
    """An array whose items are checked before they are looked at, as far as there is anything to check."""

    def checked(self, first: int = 0, end: int | None = None) -> Array:
        """Return the whole array after checking items ``first`` to ``end``. Raises ``StoreDamagedError``."""

    def checked_at(self, items: Array) -> Array:
        """Return the whole array after checking some items, given by number. Raises ``StoreDamagedError``."""


class CheckedArray:
    """A mapped array; whoever wants items asks for those first, so that their blocks are checked once."""

    def __init__(self, path: Path, dtype: str, count: int, check: FileCheck) -> None:
        self._path = path
        try:
            self._array = map_array(path, dtype, count, check.offset)
        except (FileNotFoundError, ValueError) as error:
            raise self._damaged() from error
        except OSError as error:  # too many open files, no more memory: the store is well
            raise SourceError(f"{path} cannot be looked at: {error.strerror or error}") from error
        self._bytes = self._array.view(np.uint8)
        self._check = check
        self._unchecked: set[int] = set(range(len(check.blocks)))

    def checked(self, first: int = 0, end: int | None = None) -> Array:
        """Return the whole array after checking items ``first`` to ``end`` (excluded; all of them).

        Raises ``StoreDamagedError``.
        """
        if self._unchecked:
            size = self._array.itemsize
            end = len(self._array) if end is None else end
            self._look_at(range(first * size // BLOCK_BYTES, -(-end * size // BLOCK_BYTES)))
        return self._array

    def checked_at(self, items: Array) -> Array:
        """Return the whole array after checking some items, given by number. Raises ``StoreDamagedError``."""
        if self._unchecked:
            self._look_at(np.unique(items * self._array.itemsize // BLOCK_BYTES).tolist())
        return self._array

    def _look_at(self, blocks: range | list[int]) -> None:
        for block in blocks:
            if block in self._unchecked:
                content = self._bytes[block * BLOCK_BYTES : (block + 1) * BLOCK_BYTES]
                if zlib.crc32(content.data) != self._check.blocks[block]:
                    raise self._damaged()
                self._unchecked.discard(block)

    def _damaged(self) -> StoreDamagedError:
        forget_store(self._path.parent)
        return StoreDamagedError(
            f"what the cache keeps of the source is damaged ({self._path})", mend=Mend("open the source again")
        )


def forget_store(folder: Path) -> None:
    """Make sure that a damaged store is not found again: its manifest and the notes of its columns go."""
    for note in folder.glob("*.json"):
        note.unlink(missing_ok=True)
