"""Functions of several columns of one row: missing values are left out, and there is none when none is left."""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction
from functools import reduce

import numpy as np

from yardcut.core.expressions.choosing_values import as_kind
from yardcut.core.expressions.computing.arithmetic import as_number
from yardcut.core.expressions.computing.double_double import two_product, two_sum
from yardcut.core.expressions.computing.text_functions import plain_values, vector_of
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind

_INTEGER_RANGE = 2.0**62
_EXACT_INTEGER = 2.0**53


def count_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return how many have a value."""
    return NumericVector(kind, _present(arguments))


def sum_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return the exact sums, rounded once; none where the sum of integers does not fit 64 bits."""
    none_left = _present(arguments) == 0
    vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.where(none_left, np.nan, _quotients(vectors, np.ones(len(none_left)))))
    whole = [np.where(_gone(vector), 0, vector.values.astype(np.int64)) for vector in vectors]
    rough = reduce(np.add, (np.abs(values.astype(np.float64)) for values in whole))
    total = reduce(np.add, whole)
    for row in np.flatnonzero(rough >= _INTEGER_RANGE).tolist():
        exact = sum(int(values[row]) for values in whole)
        none_left[row] |= not -(2**63) <= exact < 2**63
    return NumericVector(kind, total, none_left if none_left.any() else None)


def average_of(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return averages of what is there: the exact sums, divided and rounded once."""
    vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
    present = _present(arguments)
    averages = _quotients(vectors, np.maximum(present, 1).astype(np.float64))
    return NumericVector(kind, np.where(present == 0, np.nan, averages))


def _quotients(vectors: list[NumericVector], divisors: Array) -> Array:
    """Return the exact sums of what is there divided by small whole numbers, rounded once; NaN where not finite.

    Worked out in pairs of doubles with a bound of the error; where that leaves a choice, by fractions.
    """
    values = [np.nan_to_num(as_number(vector), nan=0.0, posinf=np.inf, neginf=-np.inf) for vector in vectors]
    high, low, size = (np.zeros(len(divisors)) for _ in range(3))
    with np.errstate(all="ignore"):
        for each in values:
            high, error = two_sum(high, each)
            low, size = low + error, size + np.abs(each)
        first = (high + low) / divisors
        product, error = two_product(first, divisors)
        more = (((high - product) - error) + low) / divisors
        bound = (len(values) ** 2 * 2.0**-104) * size / divisors + np.abs(more) * 2.0**-48
        found = first + more
        unsure = ~(first + (more - bound) == first + (more + bound))
    for vector in vectors:
        if vector.kind is Kind.INTEGER:
            unsure |= np.abs(vector.values.astype(np.float64)) >= _EXACT_INTEGER
    gone = [_gone(vector) for vector in vectors]
    for row in np.flatnonzero(unsure).tolist():
        found[row] = _quotient([v.values[row].item() for v, no in zip(vectors, gone, strict=True) if not no[row]],
                               int(divisors[row]))  # fmt: skip
    return found


def _quotient(values: list[int | float], divisor: int) -> float:
    try:
        return float(sum(map(Fraction, values), Fraction(0)) / divisor)
    except OverflowError:  # too large, or a value is infinite
        return math.nan


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
