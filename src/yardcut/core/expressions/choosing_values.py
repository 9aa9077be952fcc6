"""CASE: for each row the value behind the first condition that is true (ISO/IEC 9075-2, 6.12)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.expressions.computing.arithmetic import as_microseconds
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import join_vectors, missing_vector, take_rows
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector, gather_plain, join_texts
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind


def branches_taken(answers: Sequence[Answers], rows: int) -> Array:
    """Return the number of the first answer that is true for each row (int64); the number of answers where none is."""
    taken = np.full(rows, len(answers), dtype=np.int64)
    for number in range(len(answers) - 1, -1, -1):
        taken[bit.unpack(answers[number].true, 0, rows)] = number
    return taken


def choose(taken: Array, vectors: Sequence[Vector], kind: Kind) -> Vector:
    """Return for each row the value of the vector whose number was taken."""
    if not len(taken):
        return missing_vector(kind, 0)
    same = [as_kind(vector, kind) for vector in vectors]
    joined = join_vectors(same)
    return take_rows(joined, taken * len(taken) + np.arange(len(taken)))


def as_kind(vector: Vector, kind: Kind) -> NumericVector | PlainVector:
    """Return a vector in the widest storage of a kind: integers as numbers, days as moments, coded texts as plain."""
    if isinstance(vector, CodedVector):
        return _plain(vector)
    if isinstance(vector, PlainVector):
        return vector
    if kind is Kind.NUMBER:
        values = vector.values.astype(np.float64)
        if vector.missing is not None:
            values[vector.missing] = np.nan
        return NumericVector(kind, values)
    values = as_microseconds(vector) if kind is Kind.TIMESTAMP else vector.values
    return NumericVector(kind, values.astype(STORAGE_DTYPE[kind]), vector.missing)


def _plain(vector: CodedVector) -> PlainVector:
    offsets, data = join_texts([text.encode() for text in [*vector.dictionary.texts, ""]])
    codes = vector.codes.astype(np.int64)
    codes[codes < 0] = len(vector.dictionary)
    found = gather_plain(PlainVector(offsets, data), codes)
    return PlainVector(found.offsets, found.data, vector.missing_mask())
