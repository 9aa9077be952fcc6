"""The keys of a second table: which rows have one, and which rows of another table have the same."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.expressions.testing.text_tests import fold_trimmed
from yardcut.core.matching.number_keys import NumberKeys, common_kind
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.text_keys import TextKeys
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, eq=False)
class KeyIndex:
    """Keys numbered from 0. ``rows`` stand by their key and as they did within each.

    ``begins`` (one more than there are keys) says where each key's rows begin in ``rows``; ``without`` counts the rows
    of the second table in which a key has no value: they are never found.
    """

    columns: tuple[TextKeys | NumberKeys, ...]
    folds: tuple[Array, ...]
    rows: Array
    begins: Array
    without: int

    def __len__(self) -> int:
        return len(self.begins) - 1

    @property
    def first_rows(self) -> Array:
        """The first row of each key."""
        return self.rows[self.begins[:-1]]

    @property
    def counts(self) -> Array:
        """How many rows each key has."""
        return np.diff(self.begins)

    def find(self, vectors: Sequence[Vector]) -> Array:
        """Return the number of each row's key (int64); -1 where it is none of them, or one of its values is missing."""
        codes = [column.find(vector) for column, vector in zip(self.columns, vectors, strict=True)]  # type: ignore[arg-type]
        found = codes[0]
        for more, column, fold in zip(codes[1:], self.columns[1:], self.folds, strict=True):
            found = _place_of(_folded(found, more, len(column)), fold)
        return found


def _folded(one: Array, other: Array, size: int) -> Array:
    return np.where((one < 0) | (other < 0), -1, one * max(size, 1) + other)


def _place_of(values: Array, among: Array) -> Array:
    if not len(among):
        return np.full(len(values), -1, np.int64)
    places = np.minimum(np.searchsorted(among, values), len(among) - 1)
    return np.where(among[places] == values, places, -1)


def index_keys(vectors: Sequence[Vector], kinds: Sequence[Kind], *, ignoring_case: bool = False) -> KeyIndex:
    """Return the index of a second table's keys, to be looked for as values of ``kinds``."""
    fold = fold_trimmed if ignoring_case else None
    numbered = [
        NumberKeys.numbered(vector, common_kind(kind, vector.kind))
        if isinstance(vector, NumericVector)
        else TextKeys.numbered(vector, fold)
        for vector, kind in zip(vectors, kinds, strict=True)
    ]
    columns = tuple(column for column, _ in numbered)
    codes, folds, size = numbered[0][1], [], len(columns[0])
    for column, more in numbered[1:]:
        both = _folded(codes, more, len(column))
        folds.append(np.unique(both[both >= 0]))
        codes, size = _place_of(both, folds[-1]), len(folds[-1])
    present = np.flatnonzero(codes >= 0)
    numbers = codes[present]
    counts = np.bincount(numbers, minlength=size)
    if counts.max(initial=0) <= 1:
        rows = np.empty(size, np.int64)
        rows[numbers] = present
    else:
        rows = present[np.argsort(numbers, kind="stable")]
    begins = np.concatenate(([0], np.cumsum(counts)))
    return KeyIndex(columns, tuple(folds), rows, begins, len(codes) - len(present))
