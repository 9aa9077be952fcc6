"""Values of an expression for some rows of a table."""

from __future__ import annotations

from decimal import Decimal

import numpy as np

from yardcut.core.language import bound as b
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import NumericVector, Vector, join_texts
from yardcut.core.table.vectors import PlainVector as _PlainVector
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS

_SAFE_PRODUCT = float(2**62)


def evaluate(value: b.BoundValue, table: Table, first_row: int, end_row: int) -> Vector:
    """Return the values of an expression for rows ``first_row`` to ``end_row`` (excluded) of a table.

    A missing operand gives no value, and so does an operation that has no answer (division by zero, overflow).
    """
    rows = end_row - first_row
    match value:
        case b.ColumnValue(column):
            return table.columns[column].slice(first_row, end_row)
        case b.Constant():
            return _constant(value, rows)
        case b.RowNumber():
            return NumericVector(Kind.INTEGER, np.arange(first_row + 1, end_row + 1, dtype=np.int64))
        case b.Minus(inner, kind):
            vector = evaluate(inner, table, first_row, end_row)
            assert isinstance(vector, NumericVector)
            if kind is Kind.NUMBER:
                return NumericVector(kind, -vector.values)
            wide = vector.values.astype(np.int64)
            unanswered = wide == np.iinfo(np.int64).min
            return NumericVector(kind, -wide, _either(vector.missing, unanswered if unanswered.any() else None))
        case b.Computed(operator, left, right, kind):
            first = evaluate(left, table, first_row, end_row)
            second = evaluate(right, table, first_row, end_row)
            assert isinstance(first, NumericVector)
            assert isinstance(second, NumericVector)
            return compute(operator, first, second, kind)


def _constant(constant: b.Constant, rows: int) -> Vector:
    value = constant.value
    if isinstance(value, str):
        offsets, data = join_texts([value.encode()] * rows)
        return _PlainVector(offsets, data)
    if isinstance(value, int) and not -(2**63) <= value < 2**63:
        return NumericVector(Kind.NUMBER, np.full(rows, float(value)))
    number = float(value) if isinstance(value, Decimal) else value
    return NumericVector(constant.kind, np.full(rows, number, dtype=STORAGE_DTYPE[constant.kind]))


def _either(one: Array | None, other: Array | None) -> Array | None:
    if one is None or other is None:
        return other if one is None else one
    return one | other


def as_number(vector: NumericVector) -> Array:
    """Return values as doubles, NaN where there is none."""
    values = vector.values.astype(np.float64)
    if vector.missing is not None:
        values[vector.missing] = np.nan
    return values


def as_microseconds(vector: NumericVector) -> Array:
    """Return days or instants as microseconds (int64)."""
    wide = vector.values.astype(np.int64)
    return wide * DAY_MICROSECONDS if vector.kind is Kind.DATE else wide


def compute(operator: str, left: NumericVector, right: NumericVector, kind: Kind) -> NumericVector:
    """Return ``left operator right``; rows without an answer have no value."""
    if left.kind.is_temporal:
        missing = _either(left.missing, right.missing)
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
    result[~np.isfinite(result)] = np.nan
    return NumericVector(Kind.NUMBER, result)


def _compute_integers(operator: str, left: NumericVector, right: NumericVector) -> NumericVector:
    first, second = left.values.astype(np.int64), right.values.astype(np.int64)
    missing = _either(left.missing, right.missing)
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
    return NumericVector(Kind.INTEGER, result, _either(missing, unanswered if unanswered.any() else None))


def _product_overflows(first: Array, second: Array) -> Array:
    """Return where a product leaves 64 bits; the few near the edge are multiplied exactly."""
    unsure = np.abs(first.astype(np.float64) * second.astype(np.float64)) >= _SAFE_PRODUCT
    for row in np.flatnonzero(unsure).tolist():
        unsure[row] = not -(2**63) <= int(first[row]) * int(second[row]) < 2**63
    return unsure
