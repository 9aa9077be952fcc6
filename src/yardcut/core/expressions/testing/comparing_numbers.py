"""Comparing numbers, days and instants: by value, whatever their width."""

from __future__ import annotations

import operator as op
from collections.abc import Callable
from decimal import Decimal
from fractions import Fraction
from math import ceil, floor
from typing import Any

import numpy as np

from yardcut.core.expressions.computing.arithmetic import as_microseconds
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind

OPERATORS: dict[str, Callable[[Any, Any], Any]] = {
    "=": op.eq,
    "<>": op.ne,
    "<": op.lt,
    "<=": op.le,
    ">": op.gt,
    ">=": op.ge,
}
SWAPPED = {"=": "=", "<>": "<>", "<": ">", "<=": ">=", ">": "<", ">=": "<="}
_EXACT = 2.0**53


def compare_constant(vector: NumericVector, operator: str, constant: int | Decimal | bool) -> Array:
    """Return ``vector operator constant`` row by row; rows without a value have an arbitrary answer."""
    values = vector.values
    if values.dtype.kind == "f":
        return _compare_doubles(values, operator, constant)
    if isinstance(constant, Decimal):
        whole = int(constant) if constant == int(constant) else None
        if whole is None:
            match operator:
                case "=" | "<>":
                    return np.full(len(values), operator == "<>")
                case "<" | "<=":
                    operator, whole = "<=", floor(constant)
                case _:
                    operator, whole = ">=", ceil(constant)
        constant = whole
    constant = int(constant)
    info = np.iinfo(values.dtype)
    if constant > info.max:
        return np.full(len(values), operator in ("<", "<=", "<>"))
    if constant < info.min:
        return np.full(len(values), operator in (">", ">=", "<>"))
    result: Array = OPERATORS[operator](values, values.dtype.type(constant))
    return result


def nearest_double(number: int | Decimal) -> float:
    """Return the double nearest to a number; an infinite one beyond the largest."""
    try:
        return float(number)
    except OverflowError:
        return float("inf") if number > 0 else float("-inf")


def _compare_doubles(values: Array, operator: str, constant: int | Decimal) -> Array:
    """A decimal is rounded to a double; an integer beyond 2^53 is compared exactly."""
    rounded = nearest_double(constant)
    if isinstance(constant, int) and rounded != constant:
        above = rounded == float("inf") or (rounded != float("-inf") and Fraction(rounded) > constant)
        match operator:
            case "=" | "<>":
                return np.full(len(values), operator == "<>")
            case "<" | "<=":
                operator = "<" if above else "<="
            case _:
                operator = ">=" if above else ">"
    result: Array = OPERATORS[operator](values, rounded)
    return result


def compare_vectors(left: NumericVector, operator: str, right: NumericVector) -> Array:
    """Return ``left operator right`` row by row; rows without a value have an arbitrary answer."""
    if left.kind.is_temporal and left.kind is not right.kind:
        result: Array = OPERATORS[operator](as_microseconds(left), as_microseconds(right))
        return result
    one, other = left.values, right.values
    if one.dtype.kind != other.dtype.kind and left.kind is not Kind.BOOLEAN:
        if one.dtype.kind == "f":
            return _integers_doubles(other, SWAPPED[operator], one)
        return _integers_doubles(one, operator, other)
    result = np.asarray(OPERATORS[operator](one, other))
    return result


def _integers_doubles(integers: Array, operator: str, doubles: Array) -> Array:
    """Compare integers with doubles exactly; only beyond 2^53 can rounding have made them equal."""
    rounded = integers.astype(np.float64)
    result: Array = OPERATORS[operator](rounded, doubles)
    unsure = np.flatnonzero((rounded == doubles) & (np.abs(rounded) >= _EXACT))
    for row in unsure.tolist():
        result[row] = OPERATORS[operator](int(integers[row]), int(doubles[row]))
    return result
