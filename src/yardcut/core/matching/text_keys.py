"""Texts found among the different texts of a column, by sorted hashes; each that is found is compared with it."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, PlainVector, gather_plain, join_texts

_BASE = 0x9E3779B97F4A7C15
"""An odd number, so that its powers modulo 2^64 never become zero."""
_ROWS_AT_ONCE = 1 << 18


def plain_of(vector: CodedVector | PlainVector, *, folded: bool = False) -> PlainVector:
    """Return texts as bytes beside each other; ``folded``: without a difference of capitals (Unicode case folding)."""
    if isinstance(vector, PlainVector) and not folded:
        return vector
    texts = vector.texts()
    gone = np.fromiter((text is None for text in texts), np.bool_, len(texts))
    written = [
        ("" if text is None else text.casefold() if folded else text).encode("utf-8", "surrogatepass") for text in texts
    ]
    return PlainVector(*join_texts(written), gone if gone.any() else None)


def text_hashes(vector: PlainVector) -> Array:
    """Return one hash (uint64) a text: a polynomial of its bytes, as of Karp and Rabin, "Efficient randomized
    pattern-matching algorithms" (1987), modulo 2^64. Equal texts have equal hashes, and others seldom.
    """
    found = np.empty(len(vector), np.uint64)
    for start in range(0, len(vector), _ROWS_AT_ONCE):
        end = min(start + _ROWS_AT_ONCE, len(vector))
        first, last = int(vector.offsets[start]), int(vector.offsets[end])
        starts = np.asarray(vector.offsets[start:end], np.int64) - first
        sizes = np.diff(np.append(starts, last - first))
        places = np.arange(last - first, dtype=np.int64) - np.repeat(starts, sizes)
        products = _powers(int(sizes.max()) if len(sizes) else 0)[places]
        products *= np.asarray(vector.data[first:last]).astype(np.uint64) + np.uint64(1)
        found[start:end] = np.add.reduceat(products, starts) if len(starts) else 0
    return found


def _powers(count: int) -> Array:
    powers = np.full(max(count, 1), _BASE, np.uint64)
    powers[0] = 1
    return np.multiply.accumulate(powers)


def same_texts(one: PlainVector, rows: Array, other: PlainVector, other_rows: Array) -> Array:
    """Tell for pairs of rows of two vectors whether their texts are the same (bool)."""
    sizes = one.lengths()[rows]
    same: Array = sizes == other.lengths()[other_rows]
    places = np.flatnonzero(same)
    for start in range(0, len(places), _ROWS_AT_ONCE):
        chosen = places[start : start + _ROWS_AT_ONCE]
        left, right = gather_plain(one, rows[chosen]), gather_plain(other, other_rows[chosen])
        same[chosen] = np.logical_and.reduceat(left.data == right.data, left.offsets[:-1])
    return same


class TextKeys:
    """The different texts of a column, numbered from 0 in no sequence that means anything."""

    def __init__(self, vector: CodedVector | PlainVector, *, folded: bool = False) -> None:
        self._folded = folded
        self._texts = plain_of(vector, folded=folded)
        hashes = text_hashes(self._texts)
        order = np.argsort(hashes, kind="stable")
        gone = vector.missing_mask()
        if gone is not None:
            order = order[~gone[order]]
        order = _put_together(self._texts, hashes, order)
        begins = np.ones(len(order), np.bool_)
        begins[1:] = ~_same_as_before(self._texts, hashes, order)
        self.codes = np.full(len(vector), -1, np.int64)
        self.codes[order] = np.cumsum(begins) - 1
        self._rows = order[begins]
        self._hashes = hashes[self._rows]

    def __len__(self) -> int:
        return len(self._rows)

    def find(self, vector: CodedVector | PlainVector) -> Array:
        """Return the number of each text (int64); -1 where it is none of them, or missing."""
        if isinstance(vector, CodedVector):
            codes = vector.dictionary.kept(
                (TextKeys, id(self)), lambda texts: (self, self._found(_dictionary(texts, self._folded)))
            )[1]
            return np.append(codes, -1)[vector.codes]
        found = self._found(plain_of(vector, folded=self._folded))
        gone = vector.missing_mask()
        if gone is not None:
            found[gone] = -1
        return found

    def _found(self, vector: PlainVector) -> Array:
        found = np.full(len(vector), -1, np.int64)
        if not len(self):
            return found
        hashes = text_hashes(vector)
        rows = np.argsort(hashes)  # neighbours are looked for beside each other, which spares most of the waiting
        hashes = hashes[rows]
        places = np.searchsorted(self._hashes, hashes)
        while len(rows):
            here = places < len(self)
            here[here] = self._hashes[places[here]] == hashes[here]
            rows, places, hashes = rows[here], places[here], hashes[here]
            same = same_texts(vector, rows, self._texts, self._rows[places])
            found[rows[same]] = places[same]
            rows, places, hashes = rows[~same], places[~same] + 1, hashes[~same]
        return found


def _dictionary(texts: list[str], folded: bool) -> PlainVector:
    return PlainVector(
        *join_texts([(text.casefold() if folded else text).encode("utf-8", "surrogatepass") for text in texts])
    )


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
    for value in np.unique(hashes[order[others]]).tolist():
        first, end = np.searchsorted(hashes[order], [value, value], side="left")[0], 0
        end = int(np.searchsorted(hashes[order], value, side="right"))
        run = order[first:end]
        words = gather_plain(texts, run).texts()
        order[first:end] = run[sorted(range(len(run)), key=lambda place: (words[place] or "", int(run[place])))]
    return order
