"""Cuts beside each other, against plain Python: rows in both, the rows of each line on two sources, shares of values."""

from __future__ import annotations

import random
from collections import Counter
from pathlib import Path

import pytest

from helpers import WriteTable
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.looking.pictured_beside import beside_bars
from yardcut.core.run.looking.two_sides import Side, by_distance, compared, figures, lines_beside, side_of
from yardcut.core.scanning.local import LocalRunner

HEADER = ["id", "species", "boards", "price"]
Rows = list[list[object]]


def made_rows(seed: int, count: int) -> Rows:
    rng = random.Random(seed)
    return [
        [f"P{n}", rng.choice(["oak", "ash", "", "yew"]), rng.choice(["", *range(9)]), round(rng.uniform(5, 95), 2)]
        for n in range(count)
    ]


def a_side(table_of: WriteTable, rows: Rows, *lines: str, name: str = "here", header: list[str] = HEADER) -> Side:
    cut_list = CutList((name,), (), (Cut("c", tuple(Line(text) for text in lines)),))
    executor = Executor(LocalRunner(table_of(header, rows, f"{name}.csv")))
    return side_of(name, cut_list, 0, executor, CancelToken(), seed=1)


@pytest.mark.parametrize("seed", range(4))
def test_rows_of_two_cuts_of_one_source(table_of: WriteTable, seed: int) -> None:
    rows = made_rows(seed, 150)
    cuts = ("keep species = 'oak'", "order price", "draw first 30"), ("keep boards > 4", "drop species = 'yew'")
    cut_list = CutList(("x",), (), tuple(Cut(str(n), tuple(map(Line, lines))) for n, lines in enumerate(cuts)))
    executor = Executor(LocalRunner(table_of(HEADER, rows)))
    here, there = (side_of(str(n), cut_list, n, executor, CancelToken(), seed=1) for n in range(2))
    oak = [n for n, row in enumerate(rows) if row[1] == "oak"]
    first = sorted(oak, key=lambda n: (rows[n][3], n))[:30]  # type: ignore[arg-type,return-value]
    other = [n for n, row in enumerate(rows) if isinstance(row[2], int) and row[2] > 4 and row[1] != "yew"]
    found = compared(here, there)
    assert found.both.ids(0, 999).tolist() == [n for n in first if n in other]
    assert found.only_here.ids(0, 999).tolist() == [n for n in first if n not in other]
    assert found.only_there.ids(0, 999).tolist() == [n for n in other if n not in first]
    summed = figures(here, there, CancelToken(), lambda so_far: None)
    assert [each.name for each in summed] == HEADER
    assert (summed[1].here.rows, summed[1].there.rows) == (len(first), len(other))


@pytest.mark.parametrize("seed", range(3))
def test_rows_drawn_several_times_are_compared_copy_by_copy(table_of: WriteTable, seed: int) -> None:
    rows = made_rows(seed, 60)
    draw = f"draw random 90 with replacement seed {seed}"
    cuts = (draw,), ("keep boards > 4",), (draw.replace("90", "50"), "order price"), ('from "0"', "keep boards > 4")
    cut_list = CutList(("x",), (), tuple(Cut(str(n), tuple(map(Line, lines))) for n, lines in enumerate(cuts)))
    executor = Executor(LocalRunner(table_of(HEADER, rows)))
    sides = [side_of(str(n), cut_list, n, executor, CancelToken(), seed=1) for n in range(4)]
    drawn = [[int(row) for row in side.frame.table.source_ids(side.frame.rows.ids(0, 999))] for side in sides]
    assert drawn[3] == [n for n in drawn[0] if isinstance(rows[n][2], int) and rows[n][2] > 4]  # type: ignore[operator]
    for here, there in ((0, 1), (1, 0), (0, 2), (2, 3), (3, 1)):
        found = compared(sides[here], sides[there])
        one, other = (side.frame.table.source_ids for side in (sides[here], sides[there]))
        assert one(found.both.ids(0, 999)).tolist() == [n for n in drawn[here] if n in drawn[there]]
        assert one(found.only_here.ids(0, 999)).tolist() == [n for n in drawn[here] if n not in drawn[there]]
        assert other(found.only_there.ids(0, 999)).tolist() == [n for n in drawn[there] if n not in drawn[here]]
        summed = figures(sides[here], sides[there], CancelToken(), lambda so_far: None)
        assert (summed[1].here.rows, summed[1].there.rows) == (len(drawn[here]), len(drawn[there]))


@pytest.mark.parametrize("seed", range(4))
def test_one_cut_on_two_sources_line_by_line(table_of: WriteTable, seed: int) -> None:
    lines = ("keep species = 'oak' OR boards > 6", "off drop price > 50", "draw first 20")
    rows = made_rows(seed, 150), made_rows(seed + 50, 90)
    here, there = (a_side(table_of, each, *lines, name=name) for each, name in zip(rows, ("a", "b"), strict=True))
    kept = [sum(row[1] == "oak" or (isinstance(row[2], int) and row[2] > 6) for row in each) for each in rows]
    found = lines_beside(here, there)
    assert [(each.here, each.there) for each in found] == [
        (150, 90), tuple(kept), tuple(kept), tuple(min(20, count) for count in kept),
    ]  # fmt: skip
    assert [each.is_off for each in found] == [False, False, True, False]


def test_a_line_that_is_wrong_on_one_source_says_why_and_those_below_have_no_count(table_of: WriteTable) -> None:
    lines = ("keep boards > 2", "keep grade = 'A'", "draw first 3")
    rows = made_rows(1, 20)
    here = a_side(table_of, [[*row, "A"] for row in rows], *lines, name="a", header=[*HEADER, "grade"])
    there = a_side(table_of, rows, *lines, name="b")
    found = lines_beside(here, there)
    assert found[1].here == found[1].there
    assert found[2].here == found[1].here
    assert found[2].there is found[3].there is None
    assert "grade" in found[2].wrong
    assert here.frame.rows.count == 3
    assert there.frame.rows.count == found[1].there


@pytest.mark.parametrize("name", ["species", "boards", "price", "id"])
@pytest.mark.parametrize("sizes", [(150, 90), (0, 40), (40, 1)])
def test_shares_of_values_on_both_sides(table_of: WriteTable, name: str, sizes: tuple[int, int]) -> None:
    place = HEADER.index(name)
    # a first row fixes the kinds; the cut takes it out
    rows = [[["first", "oak", 1, 1.25], *made_rows(n, size)] for n, size in enumerate(sizes)]
    here, there = (
        a_side(table_of, each, "drop id = 'first'", name=side) for each, side in zip(rows, ("a", "b"), strict=True)
    )
    bars = beside_bars(here, there, name, CancelToken())
    for series, each, size in zip(bars.series, rows, sizes, strict=True):
        counted = Counter(str(row[place]) for row in each[1:])
        shares = dict(zip(bars.labels, series.values, strict=True))
        assert abs(sum(shares.values()) - (100 if size else 0)) < 1e-6
        for label, share in shares.items():
            if " to below " in label:
                low, high = map(float, label.split(" to below "))
                times = sum(low <= float(str(row[place])) < high for row in each[1:])
            elif label == "all other values":
                times = size - sum(counted[other] for other in bars.labels)
            else:
                times = counted["" if label == "no value" else label]
            assert abs(share - 100 * times / max(1, size)) < 1e-6, label


def test_sides_of_different_kinds_and_without_rows_are_sentences(table_of: WriteTable) -> None:
    rows = made_rows(3, 30)
    here = a_side(table_of, rows, name="a")
    words = a_side(table_of, [[row[0], row[1], "many", row[3]] for row in rows], name="b")
    with pytest.raises(ListError, match="boards is an integer in a and a text in b"):
        beside_bars(here, words, "boards", CancelToken())
    nothing = a_side(table_of, rows, "keep id = 'none'", name="c")
    with pytest.raises(ListError, match="no rows"):
        beside_bars(nothing, nothing, "price", CancelToken())


def test_a_list_on_another_file_is_run_there(table_of: WriteTable, tmp_path: Path) -> None:
    here = a_side(table_of, made_rows(5, 60), "keep boards > 3", "order price DESC", name="a")
    there = a_side(table_of, made_rows(6, 60), "keep boards > 3", "order price DESC", name="b")
    for side in (here, there):
        prices = [float(text) for text in _texts(side)]
        assert prices == sorted(prices, reverse=True)


def _texts(side: Side) -> list[str]:
    from yardcut.core.expressions.evaluating import evaluate
    from yardcut.core.table.window import Scatter

    window = Scatter(side.frame.table, side.frame.rows.ids(0, 99))
    column = next(column for column in side.frame.columns if column.name == "price")
    return [text or "" for text in evaluate(column.value, window).texts()]


def test_all_columns_of_both_sides_those_that_differ_most_first(table_of: WriteTable) -> None:
    rows = made_rows(4, 400)
    same = a_side(table_of, [[*row, n % 7] for n, row in enumerate(rows)], name="a", header=[*HEADER, "shift_no"])
    moved = [[row[0], row[1], row[2], float(str(row[3])) + 60, n % 7] for n, row in enumerate(rows)]
    there = a_side(table_of, moved, name="b", header=["ticket_id", *HEADER[1:], "shift_number"])
    there_only = a_side(table_of, [[*row, "x"] for row in rows], name="c", header=[*HEADER, "mill"])
    told: list[int] = []
    found = by_distance(figures(same, there, CancelToken(), lambda so_far: told.append(len(so_far))))
    assert told == [1, 2, 3, 4, 5]
    assert {each.name: each.renamed for each in found if each.renamed} == {
        "id": "ticket_id",
        "shift_no": "shift_number",
    }
    assert found[2].name == "price"
    assert found[2].distance > 0.5
    assert [each.distance for each in found[3:]] == [0.0, 0.0]
    one_sided = by_distance(figures(same, there_only, CancelToken(), lambda so_far: None))[:2]
    assert {each.name: (each.here is None, each.there is None) for each in one_sided} == {
        "shift_no": (False, True),
        "mill": (True, False),
    }


@pytest.mark.parametrize("seed", range(6))
def test_how_far_apart_is_the_largest_difference_of_shares_or_of_distribution_functions(
    table_of: WriteTable, seed: int
) -> None:
    rows, others = made_rows(seed, 64), made_rows(seed + 90, 64)
    here, there = a_side(table_of, rows, name="a"), a_side(table_of, others, name="b")
    found = {each.name: each.distance for each in figures(here, there, CancelToken(), lambda so_far: None)}
    prices = [[float(str(row[3])) for row in side] for side in (rows, others)]
    below = [[sum(price <= at for price in side) / 64 for at in (*prices[0], *prices[1])] for side in prices]
    assert found["price"] == pytest.approx(max(abs(one - two) for one, two in zip(*below, strict=True)))
    present = [[row[1] for row in side if row[1]] for side in (rows, others)]
    apart = [abs(present[0].count(each) / len(present[0]) - present[1].count(each) / len(present[1])) for each in ("oak", "ash", "yew")]  # fmt: skip
    missing = abs(len(present[0]) - len(present[1])) / 64
    assert found["species"] == pytest.approx(max(missing, sum(apart) / 2))
