"""Writing which rows of a finished column have no value, one bit each, so that conditions need not look at it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array, ArrayWriter

_CHUNK_ROWS = 1 << 18


def write_missing_bits(bits: ArrayWriter, values: Array, is_missing: Callable[[Array], Array]) -> None:
    """Write the bits of a column, from its values or whatever marks the missing ones among them."""
    for start in range(0, len(values), _CHUNK_ROWS):
        bits.append(np.asarray(bit.pack(is_missing(values[start : start + _CHUNK_ROWS]))))
