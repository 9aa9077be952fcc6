"""Writing which rows of a finished column have no value, one bit each, so that conditions need not look at it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from yardcut.core.private import private_opener
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array

_CHUNK_ROWS = 1 << 18


def write_missing_bits(path: Path, values: Array, is_missing: Callable[[Array], Array]) -> None:
    """Write the bits of a column, from its values or whatever marks the missing ones among them."""
    with open(path, "wb", opener=private_opener) as file:
        for start in range(0, len(values), _CHUNK_ROWS):
            file.write(bit.pack(is_missing(values[start : start + _CHUNK_ROWS])).data)
