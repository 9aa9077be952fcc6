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
_ROWS_AT_ONCE = 1 << 18
_MAYBE_BITS = 3
"""Places for each key in the table that tells at once of most texts that they are none of the keys."""


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


def as_plain(vector: TextVector, fold: Fold | None = None) -> PlainVector:
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
    words = np.ndarray((len(data) - _WORD + 1,), np.dtype("<u8"), data, strides=(1,))  # one from every byte on
    found = _mixed(sizes.astype(np.uint64) + np.uint64(1))
    rows: Array | slice = slice(None)
    for at in range(0, min(longest, _LONG_BYTES), _WORD):
        if at:
            rows = np.flatnonzero(sizes > at)
        word = words[starts[rows] + at]
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
    texts = data.reshape(-1, size + 1)
    padded = np.zeros((len(texts), -(-size // _WORD) * _WORD), np.uint8)
    padded[:, :size] = texts[:, :size]
    words = padded.view("<u8")
    found = np.full(len(texts), _mixed(np.array([size + 1], np.uint64))[0])
    for place in range(words.shape[1]):
        found = _mixed(found ^ words[:, place])
    return found


_MASKS = np.array([(1 << (8 * count)) - 1 for count in range(_WORD + 1)], np.uint64)


def _mixed(values: Array) -> Array:
    values = values * _FACTOR
    values ^= values >> _HALF
    values *= _FACTOR
    values ^= values >> _HALF
    return values


def same_texts(one: PlainVector, rows: Array, other: PlainVector, other_rows: Array) -> Array:
    """Tell for pairs of rows of two vectors whether their texts are the same (bool)."""
    sizes = one.offsets[rows + 1] - one.offsets[rows]
    same: Array = sizes == other.offsets[other_rows + 1] - other.offsets[other_rows]
    places = np.flatnonzero(same)
    for start in range(0, len(places), _ROWS_AT_ONCE):
        chosen = places[start : start + _ROWS_AT_ONCE]
        left, right = gather_plain(one, rows[chosen]), gather_plain(other, other_rows[chosen])
        same[chosen] = np.logical_and.reduceat(left.data == right.data, left.offsets[:-1])
    return same


class TextKeys:
    """The different texts of a column, numbered from 0 in no sequence that means anything: by ``hashes``, ascending,
    each in one of its ``rows``. ``arrays`` are those, and what finds a hash among them.
    """

    def __init__(self, texts: PlainVector, arrays: dict[str, Array], fold: Fold | None = None) -> None:
        self._texts, self._fold = texts, fold
        self.arrays = arrays
        self._rows, self._hashes = arrays["rows"], arrays["hashes"]
        self._first, self._maybe = arrays["first"], arrays["maybe"]
        self._shift = _shift(len(self._rows))
        self._maybe_shift = _maybe_shift(self._shift)

    @classmethod
    def of(cls, vector: TextVector, fold: Fold | None = None) -> TextKeys:
        """Return the different texts of a column; folded ones count as the same."""
        return cls.numbered(vector, fold)[0]

    @classmethod
    def numbered(cls, vector: TextVector, fold: Fold | None = None) -> tuple[TextKeys, Array]:
        """Return the different texts of a column, and the number of each row's (int64; -1 where it is missing)."""
        texts = as_plain(vector, fold)
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
        hashes = hashes[rows]
        shift = _shift(len(rows))
        buckets = np.arange(1 << (64 - int(shift)), dtype=np.uint64) << shift
        first = np.searchsorted(hashes, buckets).astype(np.int32)
        maybe_shift = _maybe_shift(shift)
        maybe = np.zeros(1 << (64 - int(maybe_shift)), np.bool_)
        maybe[(hashes >> maybe_shift).view(np.int64)] = True
        arrays = {"rows": rows, "hashes": hashes, "first": first, "maybe": maybe}
        return cls(texts, arrays, fold), codes

    def __len__(self) -> int:
        return len(self._rows)

    def find(self, vector: TextVector) -> Array:
        """Return the number of each text (int64); -1 where it is none of them, or missing."""
        if isinstance(vector, CodedVector):
            return np.append(self.of_words(vector.dictionary), -1)[vector.codes]
        found = self._found(as_plain(vector, self._fold))
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
        if not len(self):
            return found
        hashes = text_hashes(vector)
        rows = np.flatnonzero(self._maybe[(hashes >> self._maybe_shift).view(np.int64)])
        hashes = hashes[rows]
        places = self._first[(hashes >> self._shift).view(np.int64)].astype(np.int64)
        last = len(self) - 1
        while len(rows):  # those of one bucket are few
            there = self._hashes[np.minimum(places, last)]
            maybe = np.flatnonzero((there == hashes) & (places <= last))
            same = same_texts(vector, rows[maybe], self._texts, self._rows[places[maybe]])
            found[rows[maybe[same]]] = places[maybe[same]]
            goes_on = (there <= hashes) & (places <= last)
            goes_on[maybe[same]] = False
            rows, places, hashes = rows[goes_on], places[goes_on] + 1, hashes[goes_on]
        return found


def _shift(keys: int) -> np.uint64:
    """Return by how many bits a hash is shifted to tell its bucket: about one for each key."""
    return np.uint64(64 - max(1, keys.bit_length()))


def _maybe_shift(shift: np.uint64) -> np.uint64:
    return shift - np.uint64(min(_MAYBE_BITS, int(shift)))


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
