"""One bit a row, eight rows a byte: the form in which answers of conditions are kept."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array


def pack(mask: Array) -> Array:
    """Pack a boolean array, the first row in the lowest bit; the last byte is filled with zeros."""
    return np.packbits(mask, bitorder="little")


def unpack(bits: Array, first_row: int, end_row: int) -> Array:
    """Return rows ``first_row`` to ``end_row`` as a boolean array."""
    before = first_row % 8
    some = bits[first_row // 8 : (end_row + 7) // 8]
    return np.unpackbits(some, count=end_row - first_row + before, bitorder="little")[before:].view(np.bool_)


def window(bits: Array, first_row: int, end_row: int) -> Array:
    """Return the bits of rows ``first_row`` (a multiple of 8) to ``end_row``; what the last byte has over is zero."""
    assert first_row % 8 == 0
    some = bits[first_row // 8 : (end_row + 7) // 8]
    if end_row % 8 and end_row < 8 * len(bits):
        some = some.copy()
        some[-1] &= (1 << end_row % 8) - 1
    return some


def at(bits: Array, rows: Array) -> Array:
    """Return the bits of some rows (any integer dtype) as a boolean array."""
    found: Array = (bits[rows >> 3] >> (rows & 7).astype(np.uint8) & 1).view(np.bool_)
    return found


def positions(bits: Array | None, first_row: int, end_row: int) -> Array | None:
    """Return which of some rows are set, counted from ``first_row`` (int64); ``None`` when all are, or without bits.

    >>> positions(pack(np.array([True, False, True])), 0, 3).tolist()
    [0, 2]
    """
    if bits is None:
        return None
    mask = unpack(bits, first_row, end_row)
    return None if mask.all() else np.flatnonzero(mask)


def runs_of(mask: Array) -> tuple[Array, Array]:
    """Return where each run of True begins in a boolean array, and where it has ended (int64)."""
    changes = np.flatnonzero(np.diff(mask, prepend=False, append=False))
    return changes[0::2], changes[1::2]


def count(bits: Array) -> int:
    """Count the ones.

    >>> count(pack(np.array([True, False, True])))
    2
    """
    whole = len(bits) // 8 * 8
    words = np.bitwise_count(bits[:whole].view(np.uint64)).sum(dtype=np.int64)
    return int(words + np.bitwise_count(bits[whole:]).sum(dtype=np.int64))


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
