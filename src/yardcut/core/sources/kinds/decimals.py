"""Decimals of 128 bits as doubles, each the nearest one."""

from __future__ import annotations

from typing import Any

import numpy as np

from yardcut.core.sources.store.builders import unpack_bits
from yardcut.core.table.array_file import Array

_MOST_SCALE = 22
"""10 to this power is the largest a double holds exactly."""
_EXACT = 1 << 53


def decimal_parts(column: Any) -> tuple[Array, Array | None]:
    """Return (values, valid) of a pyarrow array of 128-bit decimals; NaN where there is none.

    A whole number below 2^53 divided by an exact power of ten is rounded once, so correctly (IEEE 754, 5.4.1); the
    few others go by way of their text.
    """
    validity, buffer = column.buffers()
    start, end = column.offset, column.offset + len(column)
    words = np.frombuffer(buffer, dtype="<i8", count=2 * end)[2 * start :] if buffer else np.empty(0, "<i8")
    low, high = words[0::2], words[1::2]
    valid = unpack_bits(validity, start, end) if column.null_count else None
    scale = column.type.scale
    simple = (high == low >> 63) & (low > -_EXACT) & (low < _EXACT)
    if 0 <= scale <= _MOST_SCALE:
        values = low.astype(np.float64) / 10.0**scale
    else:
        values, simple = np.zeros(len(low)), np.zeros(len(low), dtype=np.bool_)
    if valid is not None:
        values[~valid] = np.nan
        simple |= ~valid
    for row in np.flatnonzero(~simple).tolist():
        values[row] = float(column[row].as_py())
    return values, valid
