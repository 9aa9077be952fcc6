"""Packing fields into as few 64-bit words as they need."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.ranking.ordering.fields import Field
from yardcut.core.table.array_file import Array

_BLOCK_ROWS = 1 << 18


def pack_words(fields: Sequence[Field], word_bits: int = 64) -> list[Field]:
    """Return words that compare as the fields do one after the other, the most significant first.

    No word is wider than ``word_bits``; a field that does not fit into what is left of a word is cut in two.
    """
    words: list[Field] = []
    current: Array | None = None
    used = 0
    for values, bits in fields:
        while bits:
            room = word_bits - used
            taken = min(bits, room)
            high = values >> np.uint64(bits - taken) if bits > taken else values
            if taken < 64:
                high = high & np.uint64((1 << taken) - 1)
            if current is None:
                current = high.astype(np.uint64, copy=False)
            else:
                current = (current << np.uint64(taken)) | high
            used += taken
            bits -= taken
            if used == word_bits:
                words.append((current, used))
                current, used = None, 0
    if current is not None:
        words.append((current, used))
    return words


def position_bits(count: int) -> int:
    """Return how many bits the position of one of ``count`` rows takes."""
    return max(1, (count - 1).bit_length())


def sort_positions(words: Sequence[Field], count: int) -> Array:
    """Return the stable order (uint32 positions) of ``count`` rows by their words; see :func:`sort_packed`."""
    return sort_packed(pack_words(words, 64 - position_bits(count)), count)


def sort_packed(words: list[Field], count: int) -> Array:
    """Return the stable order (uint32 positions) of ``count`` rows by words that leave room for a position.

    Word and position are packed into 64 bits and sorted by value; wider keys take one pass for each word, from the
    least significant. The words are used up: each is let go after its pass. Complexity: O(n log n) a pass; of memory,
    the words and two more.
    """
    shift = np.uint64(position_bits(count))
    mask = np.uint64((1 << int(shift)) - 1)
    order: Array | None = None
    while words:
        values, _ = words.pop()
        keyed = values.astype(np.uint64) if order is None else values[order].astype(np.uint64, copy=False)
        del values
        keyed <<= shift
        _number(keyed)
        keyed.sort()
        keyed &= mask
        moved = keyed.astype(np.uint32)
        del keyed
        order = moved if order is None else order[moved]
    return np.arange(count, dtype=np.uint32) if order is None else order


def _number(keyed: Array) -> None:
    """Put each row's position into its low bits, block by block: no second array of all positions."""
    block = np.arange(min(_BLOCK_ROWS, len(keyed)), dtype=np.uint64)
    for start in range(0, len(keyed), _BLOCK_ROWS):
        part = keyed[start : start + _BLOCK_ROWS]
        part |= block[: len(part)] + np.uint64(start)
