"""Where the blocks of delimited files stand, and in them every 64th row: rows are read again from around them."""

from __future__ import annotations

from dataclasses import field
from pathlib import Path

import numpy as np

from yardcut.core.private import write_private
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.parsing_blocks import ParsedBlock
from yardcut.core.table.array_file import Array

_NAME, _GROUPS = "blocks.npy", "groups.npy"
_UNKNOWN = -1


@dataclass(frozen=True, slots=True)
class BlockPlace:
    """Some rows of a file: how many, and the bytes they stand in.

    ``groups`` (uint32) are the offsets in these bytes at which every 64th row but the first begins, each row being a
    line; ``None``: nobody knows.
    """

    rows: int
    start: int
    size_bytes: int
    groups: Array | None = field(default=None, compare=False)


class BlockIndex:
    """Takes blocks as they are read; one of which nobody knows where it stands makes an end of it."""

    def __init__(self) -> None:
        self._found: list[tuple[int, int, int, int, int]] = []
        self._groups: list[Array] = []
        self._is_known = True

    def add(self, file_number: int, block: ParsedBlock) -> None:
        """Take a block of a file, by the file's place among those that are read."""
        if block.rows:
            groups = block.groups
            self._is_known &= block.start >= 0
            count = _UNKNOWN if groups is None else len(groups)
            self._found.append((file_number, block.rows, block.start, block.size_bytes, count))
            if groups is not None:
                self._groups.append(groups)

    def write(self, folder: Path) -> None:
        """Write it into a store. Raises ``OSError``."""
        if self._is_known and self._found:
            write_private(folder / _NAME, np.array(self._found, dtype="<i8").tobytes())
            groups = np.concatenate([np.zeros(0, "<u4"), *self._groups])
            write_private(folder / _GROUPS, groups.astype("<u4", copy=False).tobytes())


def read_block_index(folder: Path, rows_of_files: list[int]) -> list[list[BlockPlace]] | None:
    """Return the blocks of each file of a store; ``None`` where that is not known, or not of these files."""
    try:
        content = np.frombuffer((folder / _NAME).read_bytes(), dtype="<i8").reshape(-1, 5)
        groups = np.fromfile(folder / _GROUPS, dtype="<u4")
    except (OSError, ValueError):
        return None
    found: list[list[BlockPlace]] = [[] for _ in rows_of_files]
    first = 0
    for file_number, rows, start, size_bytes, count in content.tolist():
        if not 0 <= file_number < len(found):
            return None
        own = None if count == _UNKNOWN else groups[first : first + count]
        first += max(count, 0)
        found[file_number].append(BlockPlace(rows, start, size_bytes, own))
    if [sum(block.rows for block in blocks) for blocks in found] != rows_of_files or first != len(groups):
        return None
    return found
