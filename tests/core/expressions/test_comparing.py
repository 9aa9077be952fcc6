from __future__ import annotations

import operator as op
from decimal import Decimal
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from yardcut.core.expressions.testing.comparing_numbers import SWAPPED, compare_constant, compare_vectors
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind

OPERATORS = {"=": op.eq, "<>": op.ne, "<": op.lt, "<=": op.le, ">": op.gt, ">=": op.ge}
INTEGERS = st.integers(-(2**63), 2**63 - 1) | st.sampled_from([2**53, 2**53 + 1, -(2**53) - 1, 2**63 - 1, -(2**63), 0])
DOUBLES = st.floats(allow_nan=False, allow_infinity=False) | st.sampled_from([2.0**53, 2.0**63, -(2.0**63), 0.5, -0.0])


def integers(values: list[int]) -> NumericVector:
    return NumericVector(Kind.INTEGER, np.array(values, dtype=np.int64))


def numbers(values: list[float]) -> NumericVector:
    return NumericVector(Kind.NUMBER, np.array(values))


@pytest.mark.few(2)
@pytest.mark.parametrize("operator", OPERATORS)
@given(values=st.lists(INTEGERS, min_size=1, max_size=8), constant=INTEGERS | st.integers(-(2**70), 2**70))
def test_integers_are_compared_exactly_with_any_integer(operator: str, values: list[int], constant: int) -> None:
    found = compare_constant(integers(values), operator, constant).tolist()
    assert found == [OPERATORS[operator](value, constant) for value in values]


@pytest.mark.few(2)
@pytest.mark.parametrize("operator", OPERATORS)
@given(values=st.lists(INTEGERS, min_size=1, max_size=8),
       constant=st.decimals(allow_nan=False, allow_infinity=False, min_value=-(10**20), max_value=10**20, places=3))  # fmt: skip
def test_integers_are_compared_exactly_with_a_decimal(operator: str, values: list[int], constant: Decimal) -> None:
    found = compare_constant(integers(values), operator, constant).tolist()
    assert found == [OPERATORS[operator](Fraction(value), Fraction(constant)) for value in values]


@pytest.mark.few(2)
@pytest.mark.parametrize("operator", OPERATORS)
@given(values=st.lists(DOUBLES, min_size=1, max_size=8), constant=INTEGERS)
def test_doubles_are_compared_exactly_with_an_integer(operator: str, values: list[float], constant: int) -> None:
    found = compare_constant(numbers(values), operator, constant).tolist()
    assert found == [OPERATORS[operator](Fraction(value), constant) for value in values]


@pytest.mark.few(2)
@pytest.mark.parametrize("operator", OPERATORS)
@given(pairs=st.lists(st.tuples(INTEGERS, DOUBLES), min_size=1, max_size=8))
def test_integers_and_doubles_are_compared_by_value(operator: str, pairs: list[tuple[int, float]]) -> None:
    left, right = integers([pair[0] for pair in pairs]), numbers([pair[1] for pair in pairs])
    expected = [OPERATORS[operator](Fraction(one), Fraction(other)) for one, other in pairs]
    assert compare_vectors(left, operator, right).tolist() == expected
    assert compare_vectors(right, SWAPPED[operator], left).tolist() == expected


@pytest.mark.parametrize("width", ["<i1", "<i2", "<i4", "<i8"])
@pytest.mark.parametrize("constant", [-(2**40), -129, -128, 0, 127, 128, 2**31, 2**70])
def test_a_narrow_column_is_compared_with_what_it_cannot_hold(width: str, constant: int) -> None:
    values = [int(np.iinfo(width).min), -1, 0, 5, int(np.iinfo(width).max)]
    vector = NumericVector(Kind.INTEGER, np.array(values, dtype=width))
    for operator, plain in OPERATORS.items():
        assert compare_constant(vector, operator, constant).tolist() == [plain(value, constant) for value in values]


def test_days_and_instants_are_compared_by_time() -> None:
    days = NumericVector(Kind.DATE, np.array([0, 1, -1], dtype=np.int32))
    moments = NumericVector(Kind.TIMESTAMP, np.array([0, 86_400_000_001, -86_400_000_000]))
    assert compare_vectors(days, "=", moments).tolist() == [True, False, True]
    assert compare_vectors(days, "<", moments).tolist() == [False, True, False]


@pytest.mark.parametrize(
    ("condition", "is_true"),
    [
        ("DATE '2031-03-01' = TIMESTAMP '2031-03-01 00:00:00'", True),
        ("TIMESTAMP '2031-03-01 00:00:00' = DATE '2031-03-01'", True),
        ("DATE '2031-03-01' < TIMESTAMP '2031-03-01 00:00:01'", True),
        ("DATE '2031-03-02' < TIMESTAMP '2031-03-01 23:59:59'", False),
        ("TIMESTAMP '1960-01-01 12:00:00' BETWEEN DATE '1960-01-01' AND DATE '1960-01-02'", True),
    ],
)
def test_a_day_beside_a_moment_is_its_midnight_though_both_are_written_out(
    table_of: WriteTable, condition: str, is_true: bool
) -> None:
    (result,) = run_lines(table_of(["a"], [["x"], ["y"]]), f"keep {condition}")
    assert result.rows.count == (2 if is_true else 0)
