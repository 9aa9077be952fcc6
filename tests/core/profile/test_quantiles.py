"""Quantiles against the statistics module, which has the same definition."""

from __future__ import annotations

import statistics
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable
from yardcut.core.expressions.frame import source_frame
from yardcut.core.profile.quantiles import quantile
from yardcut.core.profile.summary import summarise
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.rowset import RowSet
from yardcut.core.values.kinds import Kind


@given(st.lists(st.integers(-(10**6), 10**6), min_size=2, max_size=60), st.integers(2, 20), st.booleans())
def test_the_same_as_the_statistics_module(values: list[int], parts: int, tenths: bool) -> None:
    exact = sorted(Fraction(value, 10 if tenths else 1) for value in values)
    wanted = statistics.quantiles(exact, n=parts, method="inclusive")
    kind = Kind.NUMBER if tenths else Kind.INTEGER
    array = np.array(exact, dtype=np.float64 if tenths else np.int64)
    found = [quantile(array, Fraction(number, parts), kind) for number in range(1, parts)]
    assert found == [float(value) for value in wanted]
    assert all(isinstance(value, int) for value in found if not tenths and value == int(value))


def test_days_have_none_between_them(table_of: WriteTable) -> None:
    table = table_of(["day", "n"], [["2031-03-01", 1], ["2031-03-02", 2]])
    day, number = (
        summarise(column, RowSet(2), LocalRunner(table), CancelToken()) for column in source_frame(table).columns
    )
    assert (day.lower_quartile, day.median) == ("2031-03-01", "2031-03-01")
    assert (number.lower_quartile, number.median, number.upper_quartile) == ("1.25", "1.5", "1.75")


@pytest.mark.parametrize("count", [1, 2, 102])
def test_the_gauge_shows_that_very_figure(table_of: WriteTable, count: int) -> None:
    cells = [[(row * 7 % 200 + 100) / 10, row] for row in range(count)]
    table = table_of(["x", "n"], cells)
    found = summarise(source_frame(table).columns[0], RowSet(count), LocalRunner(table), CancelToken())
    exact = [Fraction(str(row[0])) for row in cells]
    wanted = statistics.quantiles(exact, n=4, method="inclusive") if count > 1 else exact * 3
    shown = [found.lower_quartile, found.median, found.upper_quartile]
    assert [float(str(text)) for text in shown] == [float(value) for value in wanted]
