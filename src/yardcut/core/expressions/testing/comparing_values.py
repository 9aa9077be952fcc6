"""Comparing the values of two sides, each a vector or a constant; rows without a value are told apart elsewhere."""

from __future__ import annotations

from decimal import Decimal

import numpy as np

from yardcut.core.expressions.testing.comparing_numbers import (
    OPERATORS,
    SWAPPED,
    compare_constant,
    compare_vectors,
    nearest_double,
)
from yardcut.core.expressions.testing.many_numbers import FEW_CONSTANTS, as_moment, one_of_numbers
from yardcut.core.expressions.testing.text_tests import compare_text, fold_trimmed, one_of_texts
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Constants
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, NumericVector, Vector


def compare(
    operator: str,
    left: b.BoundValue,
    one: Vector | None,
    right: b.BoundValue,
    other: Vector | None,
    ignoring: bool,
    rows: int,
) -> Array:
    """Compare two sides; ``one`` and ``other`` are their values, ``None`` for a constant. Returns a bool a row."""
    if one is None:
        if other is None:
            return np.full(rows, _constants(operator, left, right, ignoring))
        return compare(SWAPPED[operator], right, other, left, None, ignoring, rows)
    if other is None:
        assert isinstance(right, b.Constant)
        return _against(one, operator, right, ignoring)
    if isinstance(one, NumericVector):
        assert isinstance(other, NumericVector)
        return compare_vectors(one, operator, other)
    return _compare_texts(one, operator, other, ignoring)


def _against(vector: Vector, operator: str, constant: b.Constant, ignoring: bool) -> Array:
    value = constant.value
    if isinstance(vector, NumericVector):
        assert not isinstance(value, str)
        if vector.kind.is_temporal and vector.kind is not constant.kind:
            other = NumericVector(constant.kind, np.full(len(vector), int(value), dtype=np.int64))
            return compare_vectors(vector, operator, other)
        return compare_constant(vector, operator, value)
    assert isinstance(value, str)
    return compare_text(vector, operator, value, ignoring)


def _constants(operator: str, left: b.BoundValue, right: b.BoundValue, ignoring: bool) -> bool:
    assert isinstance(left, b.Constant)
    assert isinstance(right, b.Constant)
    one, other = left.value, right.value
    if left.kind is not right.kind and left.kind.is_temporal:
        one, other = as_moment(left), as_moment(right)
    if left.kind.is_numeric:  # a decimal is the double nearest to it; an integer is compared with it by value
        return bool(OPERATORS[operator](as_compared(left), as_compared(right)))
    if ignoring:
        one, other = fold_trimmed(str(one)), fold_trimmed(str(other))
    return bool(OPERATORS[operator](one, other))


def as_compared(constant: b.Constant) -> int | float:
    """Return a number as it is compared with others."""
    value = constant.value
    assert isinstance(value, int | Decimal)
    return nearest_double(value) if isinstance(value, Decimal) else value


def _compare_texts(one: Vector, operator: str, other: Vector, ignoring: bool) -> Array:
    if (
        isinstance(one, CodedVector)
        and isinstance(other, CodedVector)
        and one.dictionary is other.dictionary
        and not ignoring
    ):
        ranks = np.append(one.dictionary.ranks(), np.uint32(0))
        result: Array = OPERATORS[operator](ranks[one.codes], ranks[other.codes])
        return result
    test = OPERATORS[operator]
    pairs = zip(one.texts(), other.texts(), strict=True)
    if ignoring:
        pairs = zip(map(_folded, one.texts()), map(_folded, other.texts()), strict=True)
    return np.array([a is not None and c is not None and test(a, c) for a, c in pairs], dtype=np.bool_)


def _folded(text: str | None) -> str | None:
    return None if text is None else fold_trimmed(text)


def one_of(value: b.BoundValue, vector: Vector | None, constants: Constants, ignoring: bool, rows: int) -> Array:
    """Tell which values are one of some constants. Returns a bool a row."""
    if vector is not None and not isinstance(vector, NumericVector):
        return one_of_texts(vector, constants.texts, ignoring)
    if isinstance(vector, NumericVector) and vector.values.dtype.kind in "iuf" and len(constants) > FEW_CONSTANTS:
        return one_of_numbers(vector, constants)
    found = np.zeros(rows, dtype=np.bool_)
    for constant in constants:
        found |= compare("=", value, vector, constant, None, ignoring, rows)
    return found
