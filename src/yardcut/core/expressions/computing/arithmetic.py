"""Arithmetic over vectors: exact for integers of 64 bits, in doubles otherwise."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS

_SAFE_PRODUCT = float(2**62)


def either(one: Array | None, other: Array | None) -> Array | None:
    """Return where one of two masks is set; ``None`` is a mask that is set nowhere."""
    if one is None or other is None:
        return other if one is None else one
    return one | other


def negative(vector: NumericVector, kind: Kind) -> NumericVector:
    """Return a number with its sign changed; the least of 64 bits has no counterpart, and so no value."""
    if kind is Kind.NUMBER:
        return NumericVector(kind, 0.0 - vector.values)  # no -0.0
    wide = vector.values.astype(np.int64)
    unanswered = wide == np.iinfo(np.int64).min
    return NumericVector(kind, -wide, either(vector.missing, unanswered if unanswered.any() else None))


def as_number(vector: NumericVector) -> Array:
    """Return values as doubles, NaN where there is none; to be read only, they may be the vector's own."""
    values: Array = vector.values.astype(np.float64, copy=False)
    if vector.missing is not None:
        values = values.copy() if values is vector.values else values
        values[vector.missing] = np.nan
    return values


def as_microseconds(vector: NumericVector) -> Array:
    """Return days or instants as microseconds (int64)."""
    wide = vector.values.astype(np.int64)
    return wide * DAY_MICROSECONDS if vector.kind is Kind.DATE else wide


def compute(operator: str, left: NumericVector, right: NumericVector, kind: Kind) -> NumericVector:
    """Return ``left operator right``; rows without an answer have no value."""
    if left.kind.is_temporal or left.kind is Kind.INSTANT:
        missing = either(left.missing, right.missing)
        if kind is Kind.INTEGER:
            return NumericVector(kind, left.values.astype(np.int64) - right.values.astype(np.int64), missing)
        days = (as_microseconds(left) - as_microseconds(right)) / DAY_MICROSECONDS
        if missing is not None:
            days[missing] = np.nan
        return NumericVector(kind, days)
    if kind is Kind.INTEGER:
        return _compute_integers(operator, left, right)
    first, second = as_number(left), as_number(right)
    with np.errstate(all="ignore"):
        match operator:
            case "+":
                result = first + second
            case "-":
                result = first - second
            case "*":
                result = first * second
            case "/":
                result = first / second
            case _:
                result = np.fmod(first, second)
        result += 0.0  # no -0.0: it is 0, and would be written otherwise
    infinite = np.isinf(result)
    if infinite.any():
        result[infinite] = np.nan
    return NumericVector(Kind.NUMBER, result)


def _compute_integers(operator: str, left: NumericVector, right: NumericVector) -> NumericVector:
    first, second = left.values.astype(np.int64), right.values.astype(np.int64)
    missing = either(left.missing, right.missing)
    with np.errstate(all="ignore"):
        match operator:
            case "+":
                result = first + second
                unanswered = ((first ^ result) & (second ^ result)) < 0
            case "-":
                result = first - second
                unanswered = ((first ^ second) & (first ^ result)) < 0
            case "*":
                result = first * second
                unanswered = _product_overflows(first, second)
            case _:
                unanswered = second == 0
                result = np.fmod(first, np.where(unanswered, 1, second))
    return NumericVector(Kind.INTEGER, result, either(missing, unanswered if unanswered.any() else None))


def _product_overflows(first: Array, second: Array) -> Array:
    """Return where a product leaves 64 bits; the few near the edge are multiplied exactly."""
    unsure = np.abs(first.astype(np.float64) * second.astype(np.float64)) >= _SAFE_PRODUCT
    for row in np.flatnonzero(unsure).tolist():
        unsure[row] = not -(2**63) <= int(first[row]) * int(second[row]) < 2**63
    return unsure
