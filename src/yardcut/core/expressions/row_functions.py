"""Functions of several columns of one row: missing values are left out, and there is none when none is left."""

from __future__ import annotations

from collections.abc import Callable
from functools import reduce

import numpy as np

from yardcut.core.expressions.arithmetic import as_number
from yardcut.core.expressions.choosing_values import as_kind
from yardcut.core.expressions.text_functions import plain_values, vector_of
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind

_INTEGER_RANGE = 2.0**62


def count_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return how many have a value."""
    return NumericVector(kind, _present(arguments))


def sum_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return sums, added from left to right; integers exactly, and none where the sum does not fit 64 bits."""
    none_left = _present(arguments) == 0
    vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
    if kind is Kind.NUMBER:
        total = reduce(np.add, (np.nan_to_num(as_number(vector), nan=0.0) for vector in vectors))
        total[none_left | ~np.isfinite(total)] = np.nan
        return NumericVector(kind, total)
    whole = [np.where(_gone(vector), 0, vector.values.astype(np.int64)) for vector in vectors]
    rough = reduce(np.add, (np.abs(values.astype(np.float64)) for values in whole))
    total = reduce(np.add, whole)
    for row in np.flatnonzero(rough >= _INTEGER_RANGE).tolist():
        exact = sum(int(values[row]) for values in whole)
        none_left[row] |= not -(2**63) <= exact < 2**63
    return NumericVector(kind, total, none_left if none_left.any() else None)


def average_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return averages of what is there."""
    vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
    total = reduce(np.add, (np.nan_to_num(as_number(vector), nan=0.0) for vector in vectors))
    with np.errstate(all="ignore"):
        average = total / _present(arguments)
    average[~np.isfinite(average)] = np.nan
    return NumericVector(kind, average)


def largest_of(arguments: tuple[Vector, ...], kind: Kind) -> Vector:
    """Return the largest of what is there."""
    return _extreme(arguments, kind, np.fmax, max)


def smallest_of(arguments: tuple[Vector, ...], kind: Kind) -> Vector:
    """Return the smallest of what is there."""
    return _extreme(arguments, kind, np.fmin, min)


def _extreme(
    arguments: tuple[Vector, ...], kind: Kind, choose: Callable[[Array, Array], Array], of_few: Callable[..., str]
) -> Vector:
    if kind is Kind.TEXT:
        rows = zip(*map(plain_values, arguments), strict=True)
        return vector_of(kind, [of_few((text for text in row if text is not None), default=None) for row in rows])
    vectors = [as_kind(vector, kind) for vector in arguments]
    numbers = [vector for vector in vectors if isinstance(vector, NumericVector)]
    if kind is Kind.NUMBER:
        return NumericVector(kind, reduce(choose, (vector.values for vector in numbers)))
    found, gone = numbers[0].values, _gone(numbers[0])
    for vector in numbers[1:]:
        other, absent = vector.values, _gone(vector)
        better = ~absent & (gone | (choose(found, other) == other))
        found, gone = np.where(better, other, found), gone & absent
    return NumericVector(kind, found, gone if gone.any() else None)


def _present(arguments: tuple[Vector, ...]) -> Array:
    total: Array = reduce(np.add, ((~_gone(vector)).astype(np.int64) for vector in arguments))
    return total


def _gone(vector: Vector) -> Array:
    mask = vector.missing_mask()
    return np.zeros(len(vector), dtype=np.bool_) if mask is None else mask
