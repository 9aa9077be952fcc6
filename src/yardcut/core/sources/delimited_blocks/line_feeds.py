"""Where lines end in a block of bytes."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array

LINE_FEED = 10
GROUP_LINES = 64
_PLACE_OF_BIT = np.array([8 - byte.bit_length() for byte in range(256)], dtype=np.uint8)
_IS_ONE_BIT = np.array([byte.bit_count() <= 1 for byte in range(256)], dtype=np.bool_)


def bits_of(content: Array, mark: int) -> Array:
    """Return a bit for each byte of others (uint8): where a byte stands, the first in the highest bit (uint8)."""
    return np.packbits(content == mark)


def offsets_of(content: Array, mark: int) -> Array:
    """Return the offsets at which a byte stands in others (uint8): int64, in order.

    A bit for each byte first, so that only few bytes of bits are looked at where the mark is rare.
    """
    bits = bits_of(content, mark)
    places = np.flatnonzero(bits != 0)
    found = bits[places]
    if bool(_IS_ONE_BIT[found].all()):
        return (places << 3) + _PLACE_OF_BIT[found]
    within = np.flatnonzero(np.unpackbits(found))
    offsets: Array = (places[within >> 3] << 3) + (within & 7)
    return offsets


def feeds_in(data: bytes) -> Array:
    """Return the bits of the line feeds in some bytes."""
    return bits_of(np.frombuffer(data, dtype=np.uint8), LINE_FEED)


def groups_in(feeds: Array, size: int) -> Array:
    """Return the offsets (uint32) at which every 64th line but the first begins, by the bits of ``size`` bytes.

    Feeds are counted by words of 64 bits, and only those words are taken apart that a line is looked for in.
    """
    words = np.concatenate((feeds, np.zeros(-len(feeds) % 8, np.uint8))).view(np.uint64)
    counts = np.cumsum(np.bitwise_count(words), dtype=np.int64)
    wanted = np.arange(GROUP_LINES, int(counts[-1]) + 1 if len(counts) else 0, GROUP_LINES)
    at = np.searchsorted(counts, wanted)
    within = wanted - np.where(at > 0, counts[np.maximum(at - 1, 0)], 0)
    so_far = np.cumsum(np.unpackbits(words[at].view(np.uint8).reshape(-1, 8), axis=1), axis=1, dtype=np.uint8)
    begins = at * 64 + np.argmax(so_far >= within[:, None], axis=1) + 1
    found: Array = begins[begins < size].astype(np.uint32)
    return found
