"""Totals divided among strata, against the definition row by row."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.ranking.drawing.allocation import equal_shares, highest_averages


def row_by_row(counts: list[int], total: int, least: int = 0) -> list[int]:
    rows = [min(count, least) for count in counts]
    for _ in range(min(total, sum(counts)) - sum(rows)):
        able = [group for group in range(len(counts)) if rows[group] < counts[group]]
        best = max(able, key=lambda group: (Fraction(counts[group], 2 * rows[group] + 1), -group))
        rows[best] += 1
    return rows


COUNTS = st.lists(st.one_of(st.integers(1, 12), st.integers(1, 90), st.just(7)), min_size=1, max_size=9)


@given(COUNTS, st.integers(0, 200), st.integers(0, 4))
@settings(max_examples=examples(1000))
def test_highest_averages_are_those_of_the_definition(counts: list[int], total: int, least: int) -> None:
    total = max(total, sum(min(count, least) for count in counts))
    found = highest_averages(np.array(counts), total, least).tolist()
    assert found == row_by_row(counts, total, least)
    assert sum(found) == min(total, sum(counts))


@given(COUNTS, st.integers(0, 300), st.integers(0, 300))
@settings(max_examples=examples(200))
def test_a_larger_total_takes_nothing_back(counts: list[int], one: int, other: int) -> None:
    for divide in (highest_averages, equal_shares):
        small, large = (divide(np.array(counts), total) for total in sorted((one, other)))
        assert (small <= large).all()


@pytest.mark.parametrize(
    ("counts", "total"),
    [
        ([1] * 1_000_000, 500_000),
        ([4_294_967_295, 1, 1], 4_294_967_290),
        ([4_294_967_295 // 3] * 3, 10**9 + 1),
        ([2**31, 2**31 - 1, 2**30], 12_345_678),
        (list(range(1, 100_001)), 77_777),
    ],
    ids=["a million of one", "one huge", "equal", "huge", "many"],
)
def test_large_tables_add_up_and_no_average_is_passed_over(counts: list[int], total: int) -> None:
    """No stratum without its next row has a larger average than one had for its last row."""
    there = np.array(counts)
    rows = highest_averages(there, total)
    assert int(rows.sum()) == min(total, sum(counts))
    assert (rows <= there).all()
    able = np.flatnonzero(rows < there)[:1000].tolist()
    has = np.flatnonzero(rows > 0)[-1000:].tolist()
    if able and has:
        next_one = max(Fraction(counts[each], 2 * int(rows[each]) + 1) for each in able)
        last_one = min(Fraction(counts[each], 2 * int(rows[each]) - 1) for each in has)
        assert next_one <= last_one
