"""Where each row of a table stands: in which file, and on which line of it."""

from __future__ import annotations

from bisect import bisect_right

import numpy as np

from yardcut.core.sources.delimited_blocks.parsing_blocks import ParsedBlock
from yardcut.core.table.array_file import Array

_MOST_BYTES = 64 << 20


class RowPlaces:
    """Takes blocks as they are read, from the first row on.

    Most blocks hold one row a line; of the others the line of each row is kept, as long as that takes little memory.
    """

    def __init__(self) -> None:
        self._starts: list[int] = []
        self._blocks: list[tuple[int, int, Array | None]] = []
        self._bytes = 0

    def add(self, first_row: int, file_number: int, block: ParsedBlock) -> None:
        """Take a block whose rows begin at ``first_row`` of the table."""
        if not block.rows:
            return
        first_line, lines = block.first_line, block.lines
        if lines is not None:
            lines = (lines - first_line).astype(np.uint32)
            self._bytes += lines.nbytes
            if self._bytes > _MOST_BYTES:
                first_line, lines = 0, None
        self._starts.append(first_row)
        self._blocks.append((file_number, first_line, lines))

    def place(self, row: int) -> tuple[int, int]:
        """Return a row's (file number, line from 1), the line 0 where nobody knows it."""
        at = bisect_right(self._starts, row) - 1
        if at < 0:
            return 0, 0
        file_number, first_line, lines = self._blocks[at]
        within = row - self._starts[at]
        if not first_line:
            return file_number, 0
        return file_number, first_line + (within if lines is None else int(lines[within]))
