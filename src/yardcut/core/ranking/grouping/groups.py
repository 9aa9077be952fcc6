"""Groups of rows by the values of some expressions; a missing value is a group of its own."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field
from functools import cached_property
from typing import Any

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.word_groups import WordCodes, WordGroups, numbers_of_codes, word_codes
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, Vector
from yardcut.core.table.window import Span, Window

GroupKey = tuple[Any, ...]
_DENSE_LIMIT = 1 << 20


_MOST_BY_VALUE = 1 << 16


KnownNumbers = dict[tuple[Dictionary, ...], Array]
"""The number of the group of each combination of words."""


class TooManyGroupsError(Exception):
    """There are more groups than are told apart one by one."""


@dataclass(frozen=True, eq=False)
class Groups:
    """The groups of a set of rows, in order of first appearance.

    ``numbers`` has the number of each row's group (uint32, one a row of the table), where that is known already; of
    rows that are not of the set it means nothing.
    """

    keys: Sequence[GroupKey]
    counts: Array
    numbers: Array | None = field(default=None, metadata=ONE_A_ROW)

    @cached_property
    def _known(self) -> KnownNumbers:
        """For columns of few texts the group of each combination of them, from one part to the next."""
        return {}

    @cached_property
    def index(self) -> dict[GroupKey, int]:
        """Each key's number."""
        return {key: number for number, key in enumerate(self.keys)}

    def of_rows(
        self, values: tuple[BoundValue, ...], table: Table, first_row: int, end_row: int, chosen: Array | None
    ) -> Array:  # fmt: skip
        """Return the numbers of rows' groups by some values, as :func:`group_numbers` does."""
        if self.numbers is None:
            return group_numbers(values, table, first_row, end_row, chosen, self.index, self._known)
        numbers = self.numbers[first_row:end_row]
        return (numbers if chosen is None else numbers[chosen]).astype(np.int64)


def row_keys(values: tuple[BoundValue, ...], window: Window) -> list[GroupKey]:
    """Return the keys of rows, one by one."""
    columns = []
    for value in values:
        codes, keys = _factor(evaluate(value, window), None)
        columns.append([keys[code] for code in codes.tolist()])
    return list(zip(*columns, strict=True))


def _factor(vector: Vector, chosen: Array | None) -> tuple[Array, list[Any]]:
    """Return small codes for a vector's values, and the value of each code (``None``: missing)."""
    if isinstance(vector, CodedVector):
        codes = vector.codes if chosen is None else vector.codes[chosen]
        if vector.complete:
            return codes, vector.dictionary.texts
        shifted = codes.astype(np.int64)
        shifted += 1
        return shifted, [None, *vector.dictionary.texts]
    missing = vector.missing_mask()
    if isinstance(vector, NumericVector):
        values = vector.values if chosen is None else vector.values[chosen]
        gone = None if missing is None else missing if chosen is None else missing[chosen]
        if values.dtype.kind == "f":
            values = values + 0.0
        present = values if gone is None else values[~gone]
        distinct = np.unique(present)
        codes = np.searchsorted(distinct, values) + 1
        if gone is not None:
            codes[gone] = 0
        return codes, [None, *distinct.tolist()]
    texts = vector.texts()
    if chosen is not None:
        texts = [texts[row] for row in chosen.tolist()]
    seen: dict[str | None, int] = {None: 0}
    codes = np.fromiter((seen.setdefault(text, len(seen)) for text in texts), dtype=np.int64, count=len(texts))
    return codes, list(seen)


def local_groups(
    values: tuple[BoundValue, ...], table: Table, first_row: int, end_row: int, chosen: Array | None
) -> tuple[Array, list[GroupKey]]:
    """Return a small number for each row at the positions ``chosen``, and the key each number stands for."""
    combined, factors, size = _combined(values, table, first_row, end_row, chosen)
    if size <= _DENSE_LIMIT:
        used = np.flatnonzero(np.bincount(combined, minlength=1))
        lookup = np.zeros(size, dtype=np.int64)
        lookup[used] = np.arange(len(used))
        numbers = lookup[combined]
    else:
        used, numbers = np.unique(combined, return_inverse=True)
    return numbers, _keys(used, factors)


_Factors = list[tuple[int, list[Any]]]


def _combined(
    values: tuple[BoundValue, ...], table: Table, first_row: int, end_row: int, chosen: Array | None
) -> tuple[Array, _Factors, int]:
    """Return one code for each chosen row, what it is made of, and the number of codes there could be."""
    combined: Array | None = None
    factors: _Factors = []
    size = 1
    for value in values:
        codes, keys = _factor(evaluate(value, Span(table, first_row, end_row)), chosen)
        combined = codes if combined is None else combined.astype(np.int64) * len(keys) + codes
        size *= len(keys)
        factors.append((len(keys), keys))
    assert combined is not None
    return combined, factors, size


def _first_places(numbers: Callable[[int, int], Array], rows: int, used: Array, size: int) -> Array:
    """Return where each of the numbers ``used`` stands first among those of some rows: mostly near the beginning."""
    reach = 4 * size + 1024
    while True:
        head = numbers(0, min(reach, rows))
        first = np.full(size, -1, dtype=np.int64)
        first[head[::-1]] = np.arange(len(head))[::-1]  # of several the last one written stays
        found: Array = first[used]
        if reach >= rows or (found >= 0).all():
            return found
        reach *= 8


def group_numbers(
    values: tuple[BoundValue, ...],
    table: Table,
    first_row: int,
    end_row: int,
    chosen: Array | None,
    index: dict[GroupKey, int],
    known: KnownNumbers,
) -> Array:
    """Return the number of each row's group in ``index`` (int64), for all rows or those at the positions ``chosen``.

    ``known`` keeps, for columns of few texts, the group of each combination of them from one part to the next.
    """
    window = Span(table, first_row, end_row)
    coded = word_codes([evaluate(value, window) for value in values], chosen)
    if coded is not None:
        lookup = known.get(coded.dictionaries)
        if lookup is None:
            lookup = known[coded.dictionaries] = numbers_of_codes(coded.dictionaries, index)
        return coded.looked_up(lookup)
    numbers, keys = local_groups(values, table, first_row, end_row, chosen)
    translated = np.array([index[key] for key in keys], dtype=np.int64)
    return np.asarray(translated[numbers]) if len(numbers) else numbers.astype(np.int64)


def _keys(codes: Array, factors: _Factors) -> list[GroupKey]:
    if len(factors) == 1:
        words = factors[0][1]
        return [(words[code],) for code in codes.tolist()]
    columns, rest = [], np.asarray(codes, np.int64)
    for size, words in reversed(factors):
        rest, part = np.divmod(rest, size)
        columns.append([words[code] for code in part.tolist()])
    return list(zip(*reversed(columns), strict=True))


_State = dict[GroupKey, tuple[int, int]] | WordGroups


@dataclass(frozen=True, slots=True, eq=False)
class GroupRound(Round[_State, Groups]):
    """Finds the groups of the members and counts their rows. Raises ``TooManyGroupsError``.

    ``places`` gives each row's position where the rows are not in source order; it decides who comes first.
    """

    values: tuple[BoundValue, ...]
    members: Array | None = field(metadata=BIT_A_ROW)
    places: Array | None = field(default=None, metadata=ONE_A_ROW)

    def scan(self, table: Table, part: Part) -> _State:
        """Count the groups of one part."""
        chosen = bit.positions(self.members, part.first_row, part.end_row)
        window = Span(table, part.first_row, part.end_row)
        coded = word_codes([evaluate(value, window) for value in self.values], chosen)
        if coded is not None:
            return self._of_words(coded, chosen, part)
        numbers, factors, size = _combined(self.values, table, part.first_row, part.end_row, chosen)
        if not len(numbers):
            return {}
        if size <= _DENSE_LIMIT:
            counts = np.bincount(numbers, minlength=size)
            used = codes = np.flatnonzero(counts)
            counts = counts[used]
        else:
            codes, numbers, counts = np.unique(numbers, return_inverse=True, return_counts=True)
            size = len(codes)
            used = np.arange(size)
        if len(codes) > _MOST_BY_VALUE:
            raise TooManyGroupsError
        first = self._first(lambda start, end: numbers[start:end], len(numbers), used, size, chosen, part)
        keys = _keys(codes, factors)
        return dict(zip(keys, zip(counts.tolist(), first.tolist(), strict=True), strict=True))

    def _of_words(self, coded: WordCodes, chosen: Array | None, part: Part) -> WordGroups:
        counts = coded.counts()
        used = np.flatnonzero(counts)
        if len(used) > _MOST_BY_VALUE:
            raise TooManyGroupsError
        first = self._first(coded.codes, len(coded), used, len(counts), chosen, part)
        return WordGroups(coded.dictionaries, used, counts[used], first)

    def _first(
        self, numbers: Callable[[int, int], Array], rows: int, used: Array, size: int, chosen: Array | None, part: Part
    ) -> Array:  # fmt: skip
        """Return where each of the numbers ``used`` stands first: its row, or its place."""
        if self.places is None:
            first = _first_places(numbers, rows, used, size)
            return np.asarray(part.first_row + (first if chosen is None else chosen[first]))
        places = self.places[part.first_row : part.end_row]
        least = np.full(size, np.iinfo(np.int64).max)
        np.minimum.at(least, numbers(0, rows), (places if chosen is None else places[chosen]).astype(np.int64))
        return np.asarray(least[used])

    def merge(self, one: _State, other: _State) -> _State:
        """Add counts; the earliest place wins."""
        if isinstance(one, WordGroups) and isinstance(other, WordGroups) and one.dictionaries == other.dictionaries:
            return one.with_more(other)
        one, other = (state.by_key() if isinstance(state, WordGroups) else state for state in (one, other))
        for key, (count, first) in other.items():
            known = one.get(key)
            one[key] = (count, first) if known is None else (known[0] + count, min(known[1], first))
        return one

    def finish(self, state: _State) -> Groups:
        """Put groups in order of first appearance."""
        if isinstance(state, WordGroups):
            state = state.by_key()
        keys = sorted(state, key=lambda key: state[key][1])
        # a list: nobody looks for columns in what a plan lists
        return Groups(keys, np.array([state[key][0] for key in keys], dtype=np.int64))
