"""Small vectors taken apart and put together again: pages of cells that come from several places."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, PlainVector, gather_plain
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

FlatVector = NumericVector | PlainVector


def missing_vector(kind: Kind, rows: int) -> FlatVector:
    """Return rows without a value."""
    gone = np.ones(rows, dtype=np.bool_)
    if kind is Kind.TEXT:
        return PlainVector(np.arange(rows + 1, dtype=np.int64), np.full(rows, 10, dtype=np.uint8), gone)
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.full(rows, np.nan))
    return NumericVector(kind, np.zeros(rows, dtype=STORAGE_DTYPE[kind]), gone)


def take_rows(vector: FlatVector, rows: Array) -> FlatVector:
    """Return some rows (int64 positions) of a vector, in that order."""
    if isinstance(vector, PlainVector):
        return gather_plain(vector, rows)
    gone = None if vector.missing is None else vector.missing[rows]
    return NumericVector(vector.kind, np.asarray(vector.values[rows]), gone)


def join_vectors(vectors: Sequence[FlatVector]) -> FlatVector:
    """Put vectors of one kind, at least one, behind each other."""
    if len(vectors) == 1:
        return vectors[0]
    gone = None
    if any(vector.missing is not None for vector in vectors):
        gone = np.concatenate(
            [np.zeros(len(each), dtype=np.bool_) if each.missing is None else each.missing for each in vectors]
        )
    plain = [vector for vector in vectors if isinstance(vector, PlainVector)]
    if plain:
        sizes = np.concatenate([np.diff(vector.offsets) for vector in plain])
        data = np.concatenate([np.frombuffer(vector.window(), dtype=np.uint8) for vector in plain])
        return PlainVector(np.concatenate(([0], np.cumsum(sizes))), data, gone)
    values = np.concatenate([vector.values for vector in vectors if isinstance(vector, NumericVector)])
    return NumericVector(vectors[0].kind, values, gone)
