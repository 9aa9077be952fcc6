"""Sums are the exact sum of the values, rounded once: ``math.fsum`` and fractions say what that is."""

from __future__ import annotations

import math
import random
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.profile.sums import SumRound, as_double, exact_sum
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.values.kinds import Kind

doubles = st.floats(allow_nan=False, allow_infinity=False) | st.sampled_from(
    [0.1, -0.1, 1e16, -1e16, 5e-324, 1.7e308, 0.0]
)


@given(st.lists(doubles, max_size=60))
def test_a_sum_is_exact(values: list[float]) -> None:
    assert exact_sum(np.array(values, dtype=np.float64)) == sum(map(Fraction, values), Fraction(0))


@pytest.mark.parametrize("spread", [0, 3, 40, 300])
@pytest.mark.parametrize("rows", [1, 7, 1 << 15, (1 << 15) + 1, 200_000])
def test_large_ones_are_rounded_once(rows: int, spread: int) -> None:
    chance = np.random.default_rng(rows + spread)
    values = np.round(chance.uniform(-1e3, 1.5e3, rows), 2) * np.exp(
        np.clip(chance.normal(size=rows) * spread, -600, 600)
    )
    assert as_double(exact_sum(values)) == math.fsum(values.tolist())


def test_what_is_infinite_stays_so() -> None:
    assert exact_sum(np.array([1.0, math.inf])) == math.inf
    assert math.isnan(exact_sum(np.array([-math.inf, math.inf])))
    assert as_double(exact_sum(np.array([1.7e308] * 40_000))) == math.inf


def test_rows_without_a_value_add_nothing(table_of: WriteTable) -> None:
    chance = random.Random(4)
    cells = [chance.choice([None, 0.1, 1e16, -1e16, 3.3, 0.0]) for _ in range(5000)]
    table = table_of(["n", "x"], list(enumerate(cells)))
    total = LocalRunner(table).run(SumRound(ColumnValue(1, Kind.NUMBER), None), CancelToken())
    there = [cell for cell in cells if cell is not None]
    assert total is not None
    assert as_double(total) == math.fsum(there)
    made = run_lines(table, "make s = SUM(x), a = AVG(x)")[-1].frame
    shown = [float(cells[0] or "") for cells in made.page(0, 1, [2, 3]).cells]
    assert shown == [math.fsum(there), float(sum(map(Fraction, there)) / len(there))], "rounded once, not twice"


@pytest.mark.parametrize(
    "values",
    [[2**63 - 1], [2**63 - 1, 1], [2**63 - 1] * 2, [2**63 - 1] * 3, [-(2**63) + 1, -1], [-(2**63) + 1, -2], [-(2**63) + 1] * 2, [2**62, 2**62 - 1], [2**62] * 2],
)  # fmt: skip
def test_a_whole_sum_beyond_64_bits_is_none(table_of: WriteTable, values: list[int]) -> None:
    (result,) = run_lines(table_of(["n", "x"], [[value, "x"] for value in values]), "keep SUM(n) IS NULL")
    fits = -(2**63) <= sum(values) < 2**63
    assert result.rows.count == (0 if fits else len(values))
