"""Functions of numbers against the decimal module, the math module and sqlite3."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal, localcontext

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from yardcut.core.expressions.computing.kernels import KERNELS
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind

NUMBERS = st.none() | st.floats(allow_nan=False, allow_infinity=False) | st.decimals(-9999, 9999, places=3).map(float)
WHOLE = st.none() | st.integers(-(2**63), 2**63 - 1) | st.integers(-200, 200)
Answers = list[float | int | None]


def vector(items: Sequence[float | int | None], kind: Kind) -> NumericVector:
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.array([math.nan if item is None else item for item in items], dtype=np.float64))
    gone = np.array([item is None for item in items])
    values = np.array([0 if item is None else item for item in items], dtype=np.int64)
    return NumericVector(kind, values, gone if gone.any() else None)


def called(function: str, kind: Kind, *arguments: NumericVector) -> Answers:
    found = KERNELS[function](arguments, kind)
    assert isinstance(found, NumericVector)
    gone = found.missing_mask()
    items = found.values.tolist()
    return items if gone is None else [None if none else item for item, none in zip(items, gone.tolist(), strict=True)]


def exactly_rounded(item: float | int, digits: int) -> Decimal:
    with localcontext() as context:
        context.prec = 900
        written = Decimal(item) if isinstance(item, int) else Decimal(repr(item))
        return written.quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP)


@given(st.lists(NUMBERS, min_size=1, max_size=20), st.integers(-6, 9))
def test_numbers_are_rounded_as_they_are_written(items: list[float | None], digits: int) -> None:
    places = vector([digits] * len(items), Kind.INTEGER)
    found = called("ROUND", Kind.NUMBER, vector(items, Kind.NUMBER), places)
    assert found == [None if item is None else float(exactly_rounded(item, digits)) for item in items]


@given(st.lists(WHOLE, min_size=1, max_size=20), st.integers(-20, 3))
def test_integers_are_rounded_or_have_no_answer(items: list[int | None], digits: int) -> None:
    places = vector([digits] * len(items), Kind.INTEGER)
    found = called("ROUND", Kind.INTEGER, vector(items, Kind.INTEGER), places)
    exact = [None if item is None else int(exactly_rounded(item, min(digits, 0))) for item in items]
    assert found == [None if item is None or not -(2**63) <= item < 2**63 else item for item in exact]


@pytest.mark.parametrize(
    ("item", "digits", "rounded"), [(2.675, 2, 2.68), (1.005, 2, 1.01), (-0.5, 0, -1), (0.5, 0, 1)]
)
def test_halves_go_away_from_zero(item: float, digits: int, rounded: float) -> None:
    assert called("ROUND", Kind.NUMBER, vector([item], Kind.NUMBER), vector([digits], Kind.INTEGER)) == [rounded]


@given(st.lists(NUMBERS, min_size=1, max_size=20))
def test_steps_and_roots_agree_with_the_math_module(items: list[float | None]) -> None:
    numbers = vector(items, Kind.NUMBER)
    assert called("CEILING", Kind.NUMBER, numbers) == [None if x is None else float(math.ceil(x)) for x in items]
    assert called("FLOOR", Kind.NUMBER, numbers) == [None if x is None else float(math.floor(x)) for x in items]
    assert called("SQRT", Kind.NUMBER, numbers) == [None if x is None or x < 0 else math.sqrt(x) for x in items]


@given(st.lists(st.tuples(WHOLE, WHOLE), min_size=1, max_size=20))
def test_remainders_agree_with_sqlite(pairs: list[tuple[int | None, int | None]]) -> None:
    first, second = (vector([pair[side] for pair in pairs], Kind.INTEGER) for side in (0, 1))
    connection = sqlite3.connect(":memory:")
    wanted = [connection.execute("select ? % ?", pair).fetchone()[0] for pair in pairs]
    connection.close()
    assert called("MOD", Kind.INTEGER, first, second) == wanted


@given(st.lists(st.tuples(WHOLE, WHOLE, WHOLE), min_size=1, max_size=20))
def test_extremes_are_missing_where_a_part_is(rows: list[tuple[int | None, ...]]) -> None:
    parts = [vector([row[side] for row in rows], Kind.INTEGER) for side in range(3)]
    for name, choose in (("GREATEST", max), ("LEAST", min)):
        wanted = [None if None in row else choose(item for item in row if item is not None) for row in rows]
        assert called(name, Kind.INTEGER, *parts) == wanted


def test_they_stand_in_lines(table_of: WriteTable) -> None:
    rows = [["2031-03-01", "2031-02-01", 7, 2.345], ["2031-01-01", "", -7, -4.0], ["2031-01-05", "2031-01-07", 0, 9.0]]
    table = table_of(["felled", "sawn", "n", "x"], rows)
    assert run_lines(table, "keep GREATEST(felled, sawn) >= '2031-01-07'")[-1].rows.count == 2
    assert run_lines(table, "keep MOD(n, 4) = -3 AND ROUND(x) = -4")[-1].rows.count == 1
    assert run_lines(table, "keep ROUND(x, 2) = 2.35 AND CEILING(x) = 3 AND FLOOR(x) = LEAST(2, 5)")[-1].rows.count == 1
    assert run_lines(table, "keep SQRT(x) = 3")[-1].unknown_taken == 1


@pytest.mark.parametrize("sign", [1, -1])
def test_an_integer_rounded_beyond_64_bits_has_no_value(table_of: WriteTable, sign: int) -> None:
    values = [sign * (2**63 - 1), sign * (2**63 - 8), sign * 9_223_372_036_854_775_799]
    table = table_of(["n", "x"], [[value, "x"] for value in values])
    for digits in (1, 2, 5, 18, 19):
        (result,) = run_lines(table, f"keep ROUND(n, -{digits}) IS NULL")
        step = 10**digits
        rounded = [(abs(value) + step // 2) // step * step * sign for value in values]
        assert result.rows.count == sum(not -(2**63) <= value < 2**63 for value in rounded), digits
