"""Groups told apart by columns of few words alone: by the codes of their words, whatever these are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import product
from math import prod
from typing import Any

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import run_starts
from yardcut.core.table.vectors import CodedVector, Dictionary, Vector

MOST_CODES = 1 << 20
"""Combinations of words that are counted one by one: in a part, and for all of them at once."""
Key = tuple[Any, ...]


_ROWS_AT_ONCE = 1 << 16
"""Rows whose codes are worked out at once: they stay near the processor."""


@dataclass(frozen=True, slots=True, eq=False)
class WordCodes:
    """One code for each row, by the words of some columns: their ``dictionaries``, and each column's own ``codes``.

    Of each column the code of a word counts from 1, and 0 is a missing value.
    """

    dictionaries: tuple[Dictionary, ...]
    columns: tuple[Array, ...]

    def __len__(self) -> int:
        return len(self.columns[0])

    def codes(self, first: int, end: int) -> Array:
        """Return the codes of some rows (int64)."""
        combined: Array | None = None
        for column, dictionary in zip(self.columns, self.dictionaries, strict=True):
            codes = column[first:end].astype(np.int64)
            codes += 1
            if combined is not None:
                combined *= len(dictionary) + 1
                codes += combined
            combined = codes
        assert combined is not None
        return combined

    def looked_up(self, table: Array) -> Array:
        """Return the entry of each row's code in a table."""
        found = np.empty(len(self), table.dtype)
        for first in range(0, len(self), _ROWS_AT_ONCE):
            end = min(first + _ROWS_AT_ONCE, len(self))
            np.take(table, self.codes(first, end), out=found[first:end], mode="clip")  # which all of them are within
        return found

    def counts(self) -> Array:
        """Count the rows of each code (int64)."""
        size = _size(self.dictionaries)
        found = np.zeros(size, np.int64)
        for first in range(0, len(self), max(_ROWS_AT_ONCE, size)):
            found += np.bincount(self.codes(first, first + max(_ROWS_AT_ONCE, size)), minlength=size)
        return found


def _size(dictionaries: Sequence[Dictionary]) -> int:
    return prod(len(each) + 1 for each in dictionaries)


def word_codes(vectors: Sequence[Vector], chosen: Array | None) -> WordCodes | None:
    """Return the codes of rows (those at the positions ``chosen``, or all), or ``None`` where a column has no words
    to go by, or there would be too many.
    """
    coded = [vector for vector in vectors if isinstance(vector, CodedVector)]
    dictionaries = tuple(vector.dictionary for vector in coded)
    if not coded or len(coded) < len(vectors) or _size(dictionaries) > MOST_CODES:
        return None
    return WordCodes(dictionaries, tuple(vector.codes if chosen is None else vector.codes[chosen] for vector in coded))


@dataclass(frozen=True, slots=True, eq=False)
class WordGroups:
    """Groups by the codes of their words (ascending), with the rows of each (int64) and where it stands first."""

    dictionaries: tuple[Dictionary, ...]
    codes: Array
    counts: Array
    first: Array

    def with_more(self, other: WordGroups) -> WordGroups:
        """Add the groups of other rows, told apart by the same dictionaries; the earlier place wins."""
        codes = np.concatenate([self.codes, other.codes])
        order = np.argsort(codes, kind="stable")
        codes = codes[order]
        begins = run_starts(codes)
        counts = np.add.reduceat(np.concatenate([self.counts, other.counts])[order], begins)
        first = np.minimum.reduceat(np.concatenate([self.first, other.first])[order], begins)
        return WordGroups(self.dictionaries, codes[begins], counts, first)

    def keys(self) -> list[Key]:
        """Return the key of each group."""
        columns, rest = [], np.asarray(self.codes, np.int64)
        for dictionary in reversed(self.dictionaries):
            rest, part = np.divmod(rest, len(dictionary) + 1)
            words = [None, *dictionary.texts]
            columns.append([words[code] for code in part.tolist()])
        return list(zip(*reversed(columns), strict=True))

    def by_key(self) -> dict[Key, tuple[int, int]]:
        """Return each key with its count and its first place."""
        return dict(zip(self.keys(), zip(self.counts.tolist(), self.first.tolist(), strict=True), strict=True))


def numbers_of_codes(dictionaries: tuple[Dictionary, ...], index: Mapping[Key, int]) -> Array:
    """Return the number in ``index`` of the group that each code stands for (int64); 0 where it is none of them."""
    found = np.zeros(_size(dictionaries), np.int64)
    if len(index) > len(found):
        words = product(*([None, *each.texts] for each in dictionaries))
        found[:] = [index.get(key, 0) for key in words]
        return found
    places = [{word: code for code, word in enumerate([None, *each.texts])} for each in dictionaries]
    for key, number in index.items():
        code = 0
        for word, place in zip(key, places, strict=True):
            known = place.get(word, -1)
            if known < 0:  # a word of another dictionary
                break
            code = code * len(place) + known
        else:
            found[code] = number
    return found
