"""Where the blocks of delimited files stand: a row is read again from the bytes around it, not from the beginning."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from yardcut.core.private import write_private
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.parsing_blocks import ParsedBlock

_NAME = "blocks.npy"


@dataclass(frozen=True, slots=True)
class BlockPlace:
    """Some rows of a file: how many, and the bytes they stand in."""

    rows: int
    start: int
    size_bytes: int


class BlockIndex:
    """Takes blocks as they are read; one of which nobody knows where it stands makes an end of it."""

    def __init__(self) -> None:
        self._found: list[tuple[int, int, int, int]] = []
        self._is_known = True

    def add(self, file_number: int, block: ParsedBlock) -> None:
        """Take a block of a file, by the file's place among those that are read."""
        if block.rows:
            self._is_known &= block.start >= 0
            self._found.append((file_number, block.rows, block.start, block.size_bytes))

    def write(self, folder: Path) -> None:
        """Write it into a store. Raises ``OSError``."""
        if self._is_known and self._found:
            write_private(folder / _NAME, np.array(self._found, dtype="<i8").tobytes())


def read_block_index(folder: Path, rows_of_files: list[int]) -> list[list[BlockPlace]] | None:
    """Return the blocks of each file of a store; ``None`` where that is not known, or not of these files."""
    try:
        content = np.frombuffer((folder / _NAME).read_bytes(), dtype="<i8").reshape(-1, 4)
    except (OSError, ValueError):
        return None
    found: list[list[BlockPlace]] = [[] for _ in rows_of_files]
    for file_number, *place in content.tolist():
        if not 0 <= file_number < len(found):
            return None
        found[file_number].append(BlockPlace(*place))
    if [sum(block.rows for block in blocks) for blocks in found] != rows_of_files:
        return None
    return found
