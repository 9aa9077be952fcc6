"""A draw beside the whole, against plain Python."""

from __future__ import annotations

import math
import random
import statistics
from collections import Counter
from typing import Any

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.profile.balance import ColumnBalance, Portion, column_balances
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.local import LocalRunner

Row = tuple[Any, ...]


def make_rows(count: int) -> list[Row]:
    chance = random.Random(5)
    return [
        (
            chance.choice(["oak", "oak", "ash", "", "elm"]),
            chance.choice([None, *range(4)]),
            round(chance.gauss(20, 4), 1),
            f"t{row}",
            f"2031-0{chance.randint(1, 9)}-1{chance.randint(0, 9)}",
        )
        for row in range(count)
    ]


def balances(result: LineResult) -> dict[str, ColumnBalance]:
    runner = LocalRunner(result.frame.table)
    columns = result.before.columns
    found = column_balances(columns, result.before, result.frame, runner, CancelToken())
    return {each.name: each for each in found}


@pytest.mark.parametrize(
    "lines", [["draw random 300 seed 2"], ["keep x > 15", "draw top 40 by x per wood"], ["draw first 0"]]
)
def test_shares_and_means_are_those_of_the_rows(table_of: WriteTable, lines: list[str]) -> None:
    rows = make_rows(2_000)
    table = table_of(["wood", "boards", "x", "ticket", "day"], rows)
    result = run_lines(table, *lines)[-1]
    whole, drawn = ([rows[row] for row in each.ids(0, each.count)] for each in (result.before.rows, result.rows))
    found = balances(result)
    assert "ticket" not in found  # every value stands once: its shares say nothing
    for name, place in (("wood", 0), ("boards", 1)):
        counts = [
            Counter("no value" if row[place] in ("", None) else str(row[place]) for row in some)
            for some in (whole, drawn)
        ]
        assert {(each.label, each.whole, each.drawn) for each in found[name].portions} == {
            (label, count, counts[1][label]) for label, count in counts[0].items()
        }
    for name in found:
        assert sum(each.whole for each in found[name].portions) == len(whole)
        assert sum(each.drawn for each in found[name].portions) == len(drawn)
    means = found["x"].means
    assert (means is None) is (not drawn)
    if means is not None:
        assert means.whole == f"{statistics.fmean(row[2] for row in whole):.4g}"
        assert means.drawn == f"{statistics.fmean(row[2] for row in drawn):.4g}"


def test_a_fair_draw_stays_within_its_errors_and_a_biased_one_does_not(table_of: WriteTable) -> None:
    table = table_of(["wood", "boards", "x", "ticket", "day"], make_rows(3_000))
    far = [
        balances(run_lines(table, f"draw random 400 seed {seed}")[0])["wood"].unevenness > 2.58 for seed in range(20)
    ]
    assert sum(far) <= 3  # four shares, each beyond that one time in a hundred
    assert balances(run_lines(table, "draw first 400 per wood")[0])["wood"].unevenness > 2.58
    assert balances(run_lines(table, "draw top 400 by x")[0])["x"].unevenness > 10


def test_many_values_are_joined_and_strange_numbers_have_no_mean(table_of: WriteTable) -> None:
    rows = [(f"g{row % 40}", "1e308" if row % 2 else "-1e308", "") for row in range(400)]
    result = run_lines(table_of(["g", "big", "none"], rows), "draw random 100 seed 1")[0]
    found = balances(result)
    assert found["g"].portions[-1].label == "28 others"
    assert found["big"].means is None
    assert {each.label for each in found["none"].portions} == {"no value"} if "none" in found else True


@pytest.mark.parametrize("replaced", [False, True])
def test_the_error_of_a_share_is_that_of_the_book(replaced: bool) -> None:
    """Cochran, Sampling Techniques (1977), 3.2: with the correction for a finite population unless replaced."""
    balance = ColumnBalance("wood", (Portion("oak", 300, 40),), 1_000, 100, replaced=replaced)
    rest = 1.0 if replaced else (1_000 - 100) / (1_000 - 1)
    assert balance.error(balance.portions[0]) == pytest.approx(math.sqrt(0.3 * 0.7 / 100 * rest))
