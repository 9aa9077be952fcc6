"""Finding bytes within bytes, piece by piece with arrays: it lets other threads work, and many hits cost no more."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yardcut.core.table.array_file import Array

_PIECE_BYTES = 1 << 21
_SAMPLE_BYTES = 1 << 15
_MANY = 8
"""While more than one place in so many is left, all of a piece is compared; after that, only the places left."""
LONGEST = 32
"""Longer ones are found by ``bytes.find``, which passes over most of what it looks through."""


def places_of(data: Array, wanted: bytes) -> Iterator[Array]:
    """Yield where ``wanted`` (1 to ``LONGEST`` bytes) begins in ``data`` (uint8): ascending int64, overlapping too.

    The rarest bytes of ``wanted`` are looked for first.
    """
    last = len(data) - len(wanted) + 1
    for start in range(0, last, _PIECE_BYTES):
        count = min(_PIECE_BYTES, last - start)
        found = _in_piece(data[start : start + count + len(wanted) - 1], wanted, count)
        if len(found):
            yield found + start


def _in_piece(piece: Array, wanted: bytes, count: int) -> Array:
    times = np.bincount(piece[:_SAMPLE_BYTES], minlength=256)
    order = sorted(range(len(wanted)), key=lambda place: int(times[wanted[place]]))
    mask = piece[order[0] : order[0] + count] == wanted[order[0]]
    done = 1
    for place in order[1:]:
        if done > 1 and int(np.count_nonzero(mask)) * _MANY < count:
            break
        mask &= piece[place : place + count] == wanted[place]
        done += 1
    found = np.flatnonzero(mask)
    for place in order[done:]:
        if not len(found):
            break
        found = found[piece[found + place] == wanted[place]]
    return found
