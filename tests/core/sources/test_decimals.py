"""Decimals against what Python makes of them."""

from __future__ import annotations

import decimal
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyarrow import parquet

from yardcut.core.sources.kinds.decimals import decimal_parts
from yardcut.core.sources.opening_sources import open_table

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


def test_decimals_with_more_digits_than_a_number_holds_are_said(tmp_path: Path) -> None:
    prices = pa.array([decimal.Decimal("1.25")])
    columns = {"short": prices.cast(pa.decimal128(10, 2)), "long": prices.cast(pa.decimal128(38, 2))}
    parquet.write_table(pa.table(columns), tmp_path / "t.parquet")
    notes = open_table(tmp_path / "t.parquet").info.notes
    assert notes == ("long: decimals of 38 digits are read as the nearest number, which holds 15",)
