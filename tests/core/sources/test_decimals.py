"""Decimals against what Python makes of them."""

from __future__ import annotations

import decimal

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.sources.decimals import decimal_parts

CONTEXT = decimal.Context(prec=60)


@given(st.integers(-5, 30), st.lists(st.none() | st.integers(-(10**30), 10**30), min_size=1), st.integers(0, 3))
def test_every_decimal_is_the_nearest_double(scale: int, whole: list[int | None], skip: int) -> None:
    items = [None if number is None else CONTEXT.scaleb(decimal.Decimal(number), -scale) for number in whole]
    column = pa.array(items, pa.decimal128(38, scale)).slice(skip)
    values, valid = decimal_parts(column)
    found = [
        None if valid is not None and not there else value
        for value, there in zip(values.tolist(), [True] * len(values) if valid is None else valid.tolist(), strict=True)
    ]
    assert found == [None if item is None else float(item) for item in items[skip:]]


@pytest.mark.parametrize("text", ["0.10", "-1234567.89", "90071992547409.93", "99999999999999999999.99"])
def test_amounts_of_money(text: str) -> None:
    values, _ = decimal_parts(pa.array([decimal.Decimal(text)], pa.decimal128(38, 2)))
    assert values.tolist() == [float(text)]
