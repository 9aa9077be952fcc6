"""Texts found among the different texts of a column, by sorted hashes; each that is found is compared with it."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import (
    CodedVector,
    Dictionary,
    PlainVector,
    TextVector,
    Vector,
    gather_plain,
    join_texts,
    part_of,
)

_FACTOR = np.uint64(0x9E3779B97F4A7C15)
_HALF = np.uint64(32)
_WORD = 8
_LONG_BYTES = 512
"""A text of more is hashed by itself."""
_ROWS_AT_ONCE = 1 << 16
_MAYBE_BITS = 3
"""Each key has this power of two of bits among those that tell at once of most texts that they are none of the keys."""
_EIGHT, _BIT = np.uint64(3), np.uint64(7)


Fold = Callable[[str], str]
"""Makes texts alike that are meant to be the same."""


def plain_of(texts: Sequence[str | None], fold: Fold | None = None) -> PlainVector:
    """Return texts, perhaps folded, as bytes beside each other."""
    gone = np.fromiter((text is None for text in texts), np.bool_, len(texts))
    written = [
        ("" if text is None else text if fold is None else fold(text)).encode("utf-8", "surrogatepass")
        for text in texts
    ]
    return PlainVector(*join_texts(written), gone if gone.any() else None)


def _as_plain(vector: TextVector, fold: Fold | None = None) -> PlainVector:
    """Return a column's texts as bytes beside each other; what stands so, and is not to be folded, is left alone."""
    return vector if isinstance(vector, PlainVector) and fold is None else plain_of(vector.texts(), fold)


def text_hashes(vector: PlainVector) -> Array:
    """Return one hash (uint64) a text: its words of eight bytes, multiplied and mixed one after the other (as of
    Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014). Equal texts have equal hashes, and
    others seldom.
    """
    found = np.empty(len(vector), np.uint64)
    for start in range(0, len(vector), _ROWS_AT_ONCE):
        end = min(start + _ROWS_AT_ONCE, len(vector))
        found[start:end] = _hashes(part_of(vector, start, end))
    return found


def _hashes(vector: Vector) -> Array:
    assert isinstance(vector, PlainVector)
    first = int(vector.offsets[0])
    starts = np.asarray(vector.offsets[:-1], np.int64) - first
    sizes = vector.lengths().astype(np.int64)
    longest = int(sizes.max(initial=0))
    if longest and longest <= _LONG_BYTES and int(sizes.min()) == longest and _are_close(vector, longest):
        return _hashes_of_even(vector.data[first : int(vector.offsets[-1])], longest)
    data = np.zeros(int(vector.offsets[-1]) - first + _WORD, np.uint8)
    data[:-_WORD] = vector.data[first : int(vector.offsets[-1])]
    found = _mixed(sizes.astype(np.uint64) + np.uint64(1))
    rows: Array | slice = slice(None)
    for at in range(0, min(longest, _LONG_BYTES), _WORD):
        if at:
            rows = np.flatnonzero(sizes > at)
        word = bytes_at(data, starts[rows] + at, _WORD)
        left = np.clip(sizes[rows] - at, 0, _WORD).astype(np.uint64)
        word &= _MASKS[left]
        found[rows] = _mixed(found[rows] ^ word)
    for row in np.flatnonzero(sizes > _LONG_BYTES).tolist():
        text = data[starts[row] : starts[row] + sizes[row]].tobytes()
        found[row] = int.from_bytes(hashlib.blake2b(text, digest_size=_WORD).digest(), "little")
    return found


def _are_close(vector: PlainVector, size: int) -> bool:
    """Tell whether texts of one size stand side by side, one byte between them."""
    return int(vector.offsets[-1] - vector.offsets[0]) == len(vector) * (size + 1)


def _hashes_of_even(data: Array, size: int) -> Array:
    """Return the hashes of texts of one size, which stand side by side: their words need not be looked for."""
    count, step = len(data) // (size + 1), size + 1
    found = np.full(count, _mixed(np.array([step], np.uint64))[0])
    for at in range(0, size - _WORD + 1, _WORD):
        found = _mixed(found ^ np.ndarray((count,), np.dtype("<u8"), data, at, (step,)))
    left = size % _WORD
    if not left:
        return found
    if size >= _WORD - 1:  # the last bytes with what stands before them, and the byte between behind them
        last = np.ndarray((count,), np.dtype("<u8"), data, size - _WORD + 1, (step,))
        last = last >> np.uint64(8 * (_WORD - 1 - left))
        last &= _MASKS[left]
    else:
        padded = np.zeros((count, _WORD), np.uint8)
        padded[:, :size] = data.reshape(-1, step)[:, :size]
        last = padded.view("<u8")[:, 0]
    return _mixed(found ^ last)


_MASKS = np.array([(1 << (8 * count)) - 1 for count in range(_WORD + 1)], np.uint64)


def _mixed(values: Array) -> Array:
    values = values * _FACTOR
    half = values >> _HALF
    values ^= half
    values *= _FACTOR
    np.right_shift(values, _HALF, out=half)
    values ^= half
    return values


def same_texts(one: PlainVector, rows: Array, other: PlainVector, other_rows: Array) -> Array:
    """Tell for pairs of rows of two vectors whether their texts are the same (bool)."""
    (starts, sizes), (others, other_sizes) = _places_of(one, rows), _places_of(other, other_rows)
    same: Array = sizes == other_sizes
    places = np.flatnonzero(same)
    for start in range(0, len(places), _ROWS_AT_ONCE):
        chosen = places[start : start + _ROWS_AT_ONCE]
        same[chosen] = _same_bytes(one.data, starts[chosen], other.data, others[chosen], sizes[chosen])
    return same


def _places_of(vector: PlainVector, rows: Array) -> tuple[Array, Array]:
    starts = np.asarray(vector.offsets[rows], np.int64)
    return starts, np.asarray(vector.offsets[rows + 1], np.int64) - starts


def _same_bytes(one: Array, starts: Array, other: Array, others: Array, sizes: Array) -> Array:
    """Compare texts of one or more bytes by pieces of up to eight: the last piece of each ends where the text does."""
    same = np.ones(len(sizes), np.bool_)
    for piece in (1, 2, 4):
        short = np.flatnonzero((sizes >= piece) & (sizes < 2 * piece))
        if len(short):
            mine, its, last = starts[short], others[short], sizes[short] - piece
            same[short] = (bytes_at(one, mine, piece) == bytes_at(other, its, piece)) & (
                bytes_at(one, mine + last, piece) == bytes_at(other, its + last, piece)
            )
    most, least = int(sizes.max(initial=0)), int(sizes.min(initial=0))
    if most >= _WORD:
        every: Array | slice = slice(None)
        some: Array | slice = every if least >= _WORD else np.flatnonzero(sizes >= _WORD)
        last = sizes[some] - _WORD
        same[some] = bytes_at(one, starts[some] + last, _WORD) == bytes_at(other, others[some] + last, _WORD)
        for at in range(0, min(most, _LONG_BYTES) - _WORD, _WORD):
            some = every if least > at + _WORD else np.flatnonzero(sizes > at + _WORD)
            same[some] &= bytes_at(one, starts[some] + at, _WORD) == bytes_at(other, others[some] + at, _WORD)
        for row in np.flatnonzero(same & (sizes > _LONG_BYTES)).tolist():
            size, left, right = int(sizes[row]), int(starts[row]), int(others[row])
            same[row] = bool((one[left : left + size] == other[right : right + size]).all())
    return same


def bytes_at(data: Array, places: Array, size: int) -> Array:
    """Return the ``size`` bytes (1, 2, 4 or 8) from each place on as an integer.

    They are taken as bytes: integers that do not stand where the processor would have them take ten times as long.
    """
    pieces = np.ndarray((max(0, len(data) - size + 1),), np.dtype(f"V{size}"), data, strides=(1,))
    return pieces[places].view(f"<u{size}")


class TextKeys:
    """The different texts of a column, numbered from 0 in no sequence that means anything: by their hashes, ascending.

    ``arrays`` are the ``hashes`` (uint64), the texts in that order (``offsets`` and ``data`` of a plain vector), and
    ``maybe``: bits by the beginning of a hash, set where there is such a key.
    """

    def __init__(self, arrays: dict[str, Array], fold: Fold | None = None) -> None:
        self.arrays = arrays
        self._fold = fold
        self._hashes, self._maybe = arrays["hashes"], arrays["maybe"]
        self._texts = PlainVector(arrays["offsets"], arrays["data"], None)

    @classmethod
    def of(cls, vector: TextVector, fold: Fold | None = None) -> TextKeys:
        """Return the different texts of a column; folded ones count as the same."""
        return cls.numbered(vector, fold)[0]

    @classmethod
    def numbered(cls, vector: TextVector, fold: Fold | None = None) -> tuple[TextKeys, Array]:
        """Return the different texts of a column, and the number of each row's (int64; -1 where it is missing)."""
        if isinstance(vector, CodedVector):
            return cls._of_codes(vector, fold)
        texts = _as_plain(vector, fold)
        hashes = text_hashes(texts)
        order = _in_order(hashes)
        gone = vector.missing_mask()
        if gone is not None:
            order = order[~gone[order]]
        order = _put_together(texts, hashes, order)
        begins = np.ones(len(order), np.bool_)
        begins[1:] = ~_same_as_before(texts, hashes, order)
        codes = np.full(len(vector), -1, np.int64)
        codes[order] = np.cumsum(begins) - 1
        rows = order[begins]
        hashes, own = hashes[rows], gather_plain(texts, rows)
        maybe = np.zeros(1 << (64 - int(_maybe_shift(len(rows)))), np.bool_)
        maybe[(hashes >> _maybe_shift(len(rows))).view(np.int64)] = True
        bits = np.packbits(maybe, bitorder="little")
        return cls({"hashes": hashes, "offsets": own.offsets, "data": own.data, "maybe": bits}, fold), codes

    @classmethod
    def _of_codes(cls, vector: CodedVector, fold: Fold | None) -> tuple[TextKeys, Array]:
        """Number the words that stand in some row, and the rows by their words."""
        words = vector.dictionary.texts
        used = np.unique(vector.codes[vector.codes >= 0])
        keys, numbers = cls.numbered(plain_of([words[code] for code in used.tolist()], fold))
        lookup = np.full(len(words) + 1, -1, np.int64)
        lookup[used] = numbers
        return cls(keys.arrays, fold), lookup[vector.codes]

    def __len__(self) -> int:
        return len(self._hashes)

    def find(self, vector: TextVector) -> Array:
        """Return the number of each text (int64); -1 where it is none of them, or missing."""
        if isinstance(vector, CodedVector):
            return np.append(self.of_words(vector.dictionary), -1)[vector.codes]
        found = self._found(_as_plain(vector, self._fold))
        gone = vector.missing_mask()
        if gone is not None:
            found[gone] = -1
        return found

    def of_words(self, dictionary: Dictionary) -> Array:
        """Return the number of each text of a dictionary (int64); worked out once for it."""
        # kept with what it was found by, so that nothing else comes to have its identity meanwhile
        kept: tuple[TextKeys, Array] = dictionary.kept(
            (TextKeys, id(self)), lambda texts: (self, self._found(plain_of(texts, self._fold)))
        )
        return kept[1]

    def _found(self, vector: PlainVector) -> Array:
        found = np.full(len(vector), -1, np.int64)
        if not len(self) or not len(vector):
            return found
        some = [
            self._perhaps(vector, start, min(start + _ROWS_AT_ONCE, len(vector)))
            for start in range(0, len(vector), _ROWS_AT_ONCE)
        ]
        rows, hashes = np.concatenate([rows for rows, _ in some]), np.concatenate([hashes for _, hashes in some])
        order = np.argsort(hashes)  # so that keys and their texts are gone over once, in the order they stand in
        rows, hashes = rows[order], hashes[order]
        places = np.searchsorted(self._hashes, hashes)
        while len(rows):  # of one hash there are few
            there = places < len(self)
            there[there] = self._hashes[places[there]] == hashes[there]
            rows, places, hashes = rows[there], places[there], hashes[there]
            same = same_texts(vector, rows, self._texts, places)
            found[rows[same]] = places[same]
            rows, places, hashes = rows[~same], places[~same] + 1, hashes[~same]
        return found

    def _perhaps(self, vector: PlainVector, start: int, end: int) -> tuple[Array, Array]:
        """Return the rows of a part that may have a key, and their hashes."""
        hashes = text_hashes(part_of(vector, start, end))  # type: ignore[arg-type]
        bits = hashes >> _maybe_shift(len(self))
        eights = self._maybe[(bits >> _EIGHT).view(np.int64)]
        bits &= _BIT
        rows = np.flatnonzero((eights >> bits.astype(np.uint8)) & np.uint8(1))
        return rows + start, hashes[rows]


def _maybe_shift(keys: int) -> np.uint64:
    """Return by how many bits a hash is shifted to tell its bit of those that say where keys may be."""
    return np.uint64(64 - max(1, keys.bit_length()) - _MAYBE_BITS)


def _in_order(hashes: Array) -> Array:
    """Return the rows by their hashes, those of one hash as they stand: where all differ, any sort does."""
    order = np.argsort(hashes)
    in_order = hashes[order]
    return np.argsort(hashes, kind="stable") if (in_order[1:] == in_order[:-1]).any() else order


def _same_as_before(texts: PlainVector, hashes: Array, order: Array) -> Array:
    """Tell for each row of an order but the first whether its text is that of the one before."""
    same: Array = hashes[order[1:]] == hashes[order[:-1]]
    places = np.flatnonzero(same)
    same[places] = same_texts(texts, order[places], texts, order[places + 1])
    return same


def _put_together(texts: PlainVector, hashes: Array, order: Array) -> Array:
    """Return an order by hashes in which the same texts stand side by side, where others share their hash."""
    alike = hashes[order[1:]] == hashes[order[:-1]]
    others = np.flatnonzero(alike & ~_same_as_before(texts, hashes, order))
    if not len(others):
        return order
    order = order.copy()
    for value in np.unique(hashes[order[others]]):  # as it is: a whole number of Python's is compared as a double
        sorted_hashes = hashes[order]
        first = int(np.searchsorted(sorted_hashes, value, side="left"))
        end = int(np.searchsorted(sorted_hashes, value, side="right"))
        run = order[first:end]
        words = gather_plain(texts, run).texts()
        order[first:end] = run[sorted(range(len(run)), key=lambda place: (words[place] or "", int(run[place])))]
    return order
