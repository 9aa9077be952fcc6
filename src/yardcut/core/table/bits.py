"""One bit a row, eight rows a byte: the form in which answers of conditions are kept."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array


def pack(mask: Array) -> Array:
    """Pack a boolean array, the first row in the lowest bit; the last byte is filled with zeros."""
    return np.packbits(mask, bitorder="little")


def unpack(bits: Array, first_row: int, end_row: int) -> Array:
    """Return rows ``first_row`` (a multiple of 8) to ``end_row`` as a boolean array."""
    assert first_row % 8 == 0
    window = bits[first_row // 8 : (end_row + 7) // 8]
    return np.unpackbits(window, count=end_row - first_row, bitorder="little").view(np.bool_)


def positions(bits: Array | None, first_row: int, end_row: int) -> Array | None:
    """Return which of some rows are set, counted from ``first_row`` (int64), or ``None`` when all are (no bits: all)."""
    if bits is None:
        return None
    mask = unpack(bits, first_row, end_row)
    return None if mask.all() else np.flatnonzero(mask)


def count(bits: Array) -> int:
    """Count the ones."""
    return int(np.bitwise_count(bits).sum(dtype=np.int64))


def ones(rows: int) -> Array:
    """Return bits that are one for each of ``rows`` rows and zero in what the last byte has over."""
    bits = np.full((rows + 7) // 8, 0xFF, dtype=np.uint8)
    if rows % 8:
        bits[-1] = (1 << rows % 8) - 1
    return bits


def of_ids(ids: Array, rows: int) -> Array:
    """Return bits that are one at the given row ids."""
    mask = np.zeros(rows, dtype=np.bool_)
    mask[ids] = True
    return pack(mask)
