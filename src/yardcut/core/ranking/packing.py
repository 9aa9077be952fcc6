"""Packing fields into as few 64-bit words as they need."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.ranking.fields import Field
from yardcut.core.table.array_file import Array


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


def sort_positions(words: Sequence[Field], count: int) -> Array:
    """Return the stable order (uint32 positions) of ``count`` rows by their words.

    Word and position are packed into 64 bits and sorted by value; wider keys take one pass for each 64 bits less the
    position's, from the least significant. Complexity: O(n log n) a pass, n words of memory.
    """
    position_bits = max(1, (count - 1).bit_length())
    chunk_bits = 64 - position_bits
    mask = np.uint64((1 << position_bits) - 1)
    chunks = pack_words(words, chunk_bits)
    positions = np.arange(count, dtype=np.uint64)
    order: Array | None = None
    for values, _ in reversed(chunks):
        keyed = (values if order is None else values[order]) << np.uint64(position_bits)
        keyed |= positions
        keyed.sort()
        keyed &= mask
        moved = keyed.astype(np.uint32)
        order = moved if order is None else order[moved]
    return np.arange(count, dtype=np.uint32) if order is None else order
