"""The bars of pictures, against plain Python."""

from __future__ import annotations

import random
from collections import Counter

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.errors import ListError
from yardcut.core.profile.balance import column_balances
from yardcut.core.progress import CancelToken
from yardcut.core.run.looking.distributions import distribution_bars
from yardcut.core.run.looking.pictured import balance_bars, plank_bars, top_bars, top_value
from yardcut.core.scanning.local import LocalRunner

CHANCE = random.Random(3)
ROWS = [
    (f"t{row}", CHANCE.choice(["oak", "ash", None]), CHANCE.choice([None, round(CHANCE.gauss(50, 20), 2)]),
     f"2031-{CHANCE.randint(1, 12):02}-{CHANCE.randint(1, 28):02}")
    for row in range(500)
]  # fmt: skip
HEADER = ["ticket", "wood", "price", "felled"]


def test_a_bar_for_each_row_of_a_top(table_of: WriteTable) -> None:
    table = table_of(HEADER, ROWS)
    result = run_lines(table, "keep wood IS NOT NULL", "draw top 7 by price")[-1]
    best = sorted((row for row in ROWS if row[1] and row[2] is not None), key=lambda row: -row[2])[:7]
    bars = top_bars(result, result.shown[0])
    assert bars.labels == tuple(row[0] for row in best)
    assert bars.series[0].values == tuple(row[2] for row in best)
    assert bars.title == "largest 7 by price"
    long = top_bars(run_lines(table, "draw top 220 by price")[-1], result.shown[0])
    assert (long.title, len(long.labels)) == ("largest 220 by price, the first 200", 200)
    for other in ("draw first 3", "draw top 3 by wood", "draw top 3 by price remainder", "order price"):
        assert top_value(run_lines(table, other)[-1]) is None


@pytest.mark.few(20)
@pytest.mark.parametrize("name", HEADER)
@pytest.mark.parametrize("line", ["keep price > 20 OR price IS NULL", "draw first 0", "draw first 20"])
@pytest.mark.parametrize("finer", [-9, -2, 0, 1, 9])
def test_every_row_stands_in_one_bar_of_a_distribution(table_of: WriteTable, name: str, line: str, finer: int) -> None:
    table = table_of(HEADER, ROWS)
    result = run_lines(table, line)[-1]
    column = next(each for each in result.shown if each.name == name)
    rows = [ROWS[row] for row in result.rows.ids(0, result.rows.count)]
    token, runner = CancelToken(), LocalRunner(table)
    if not rows:
        with pytest.raises(ListError):
            distribution_bars(column, result.frame, "here", runner, token, finer)
        return
    drawn = distribution_bars(column, result.frame, "here", runner, token, finer)
    bars = drawn.bars
    assert drawn.coarsest <= drawn.finer <= drawn.finest
    assert (drawn.coarsest < drawn.finest) == (name in ("price", "felled"))
    place = HEADER.index(name)
    counted = dict(zip(bars.labels, bars.series[0].values, strict=True))
    assert sum(counted.values()) == len(rows)
    assert counted.get("no value", 0) == sum(row[place] is None for row in rows)
    if name == "wood":
        assert counted == {each or "no value": count for each, count in Counter(row[1] for row in rows).items()}
    if name in ("price", "felled"):
        for label, count in counted.items():
            if label != "no value" and " to below " not in label:
                assert count == sum(row[place] == (float(label) if name == "price" else label) for row in rows)
            elif label != "no value":
                low, high = (float(end) if name == "price" else end for end in label.split(" to below "))
                assert count == sum(row[place] is not None and low <= row[place] < high for row in rows)


def test_shares_of_a_draw_beside_the_whole(table_of: WriteTable) -> None:
    table = table_of(HEADER, ROWS)
    result = run_lines(table, "draw random 60 seed 4")[-1]
    found = list(column_balances(result.shown, result.before, result.frame, LocalRunner(table), CancelToken()))
    bars = balance_bars(found, "wood")
    drawn, whole = ([Counter(ROWS[row][1] or "no value" for row in each.ids(0, each.count)), each.count]
                    for each in (result.rows, result.before.rows))  # fmt: skip
    for series, (counts, size) in zip(bars.series, (drawn, whole), strict=True):
        assert dict(zip(bars.labels, series.values, strict=True)) == pytest.approx(
            {label: 100 * counts[label] / size for label in bars.labels}
        )


def test_the_plank_has_a_board_for_each_line(table_of: WriteTable) -> None:
    results = run_lines(table_of(HEADER, ROWS), "keep price > 40", "off keep wood = 'x'", "order price", "draw first 9")
    bars = plank_bars(results, "cut")
    assert bars.labels == (
        "source",
        "1  keep price > 40",
        "2  off keep wood = 'x'",
        "3  order price",
        "4  draw first 9",
    )
    kept = sum(row[2] is not None and row[2] > 40 for row in ROWS)
    assert bars.series[0].values == (500, kept, kept, kept, 9)
    assert bars.series[1].values == (0, 500 - kept, 0, 0, kept - 9)
    assert bars.kind == "stacked"
