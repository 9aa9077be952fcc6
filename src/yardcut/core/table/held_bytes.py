"""Bytes that grow at their end, in memory while they are few and in a file beyond that."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array, ArrayWriter

_WRITTEN_AT_ONCE = 1 << 20


class HeldBytes:
    """Takes bytes as an array writer does, and holds up to ``most`` of them in memory before the first is written.

    That memory is asked for at once, and is in use only as far as it is filled.
    """

    def __init__(self, writer: ArrayWriter, most: int) -> None:
        self._writer = writer
        self._held: Array | None = np.empty(most, dtype=np.uint8)
        self.count = 0

    def append(self, items: Array) -> None:
        """Take some bytes (uint8). Raises ``OSError`` when the disk does not take them."""
        end = self.count + len(items)
        if self._held is not None and end > len(self._held):
            for start in range(0, self.count, _WRITTEN_AT_ONCE):  # what is written is copied first
                self._writer.append(self._held[start : min(start + _WRITTEN_AT_ONCE, self.count)])
            self._held = None
        if self._held is None:
            self._writer.append(items)
        else:
            self._held[self.count : end] = items
        self.count = end

    def items(self) -> Array:
        """Return all bytes so far. Raises ``OSError``."""
        return self._writer.items() if self._held is None else self._held[: self.count]
