"""What each piece of a condition takes, and the nearest bound that lets more through, against plain Python."""

from __future__ import annotations

import random

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining.loosening import loosenings
from yardcut.core.run.explaining.reason_groups import reason_groups
from yardcut.core.run.explaining.tree_counts import branches, rows_of_part
from yardcut.core.run.explaining.way_back import ways_back
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

Row = tuple[str | None, int | None, float | None]


@pytest.fixture
def rows() -> list[Row]:
    chance = random.Random(7)
    return [
        (
            chance.choice(["oak", "ash", "larch", None]),
            chance.choice([None, *range(1800, 3000, 100)]),
            chance.choice([None, *(value / 2 for value in range(10, 60))]),
        )
        for _ in range(500)
    ]


@pytest.fixture
def table(table_of: WriteTable, rows: list[Row]) -> Table:
    return table_of(["species", "length_mm", "moisture_pct"], rows)


def _loosenings(table: Table, line: str) -> dict[str, tuple[str, int]]:
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line(line),))))[-1]
    return {each.says: (each.text, each.leaves) for each in loosenings(result, executor, CancelToken())}


def test_every_way_leaves_what_its_line_leaves(table: Table) -> None:
    for line in [
        "keep species = 'oak' AND moisture_pct <= 5.5 AND length_mm BETWEEN 2000 AND 2300",
        "keep species IN ('oak', 'ash') AND (moisture_pct < 6 OR length_mm > 2800) AND NOT length_mm = 2900",
        "drop species = 'oak' OR moisture_pct > 6",
        "keep species = 'elm' AND length_mm > 5000",
    ]:
        before = run_lines(table, line)[0].rows.count
        found = _loosenings(table, line)
        assert found, line
        for says, (text, leaves) in found.items():
            assert leaves > before, (line, says)
            assert (run_lines(table, text)[0].rows.count if text else table.rows) == leaves, (line, says)


def test_the_nearest_bound_is_the_nearest_value_of_the_rest(table: Table, rows: list[Row]) -> None:
    found = _loosenings(table, "keep species = 'elm' AND length_mm > 5000")
    assert "the highest length_mm among the rest is" not in " ".join(found)  # no elm is there, however short
    found = _loosenings(table, "keep species = 'oak' AND moisture_pct < 5")
    lowest = min(moisture for species, _, moisture in rows if species == "oak" and moisture is not None)
    bound = f"moisture_pct <= {lowest:g}"
    says = f"the lowest moisture_pct among the rest is {lowest:g}: {bound}"
    assert found[says][0] == f"keep species = 'oak' AND {bound}"
    assert found[says][1] == sum(species == "oak" and moisture == lowest for species, _, moisture in rows)


def test_one_value_more_is_the_commonest_of_the_rest(table: Table, rows: list[Row]) -> None:
    found = _loosenings(table, "keep species = 'elm' AND length_mm >= 2500")
    counts = {
        wood: sum(species == wood and length is not None and length >= 2500 for species, length, _ in rows)
        for wood in ("oak", "ash", "larch")
    }
    best = max(counts.values())
    said = [text for says, (text, leaves) in found.items() if "commonest" in says and leaves == best]
    assert said in ([f"keep species IN ('elm', '{wood}') AND length_mm >= 2500"] for wood in counts)


def test_a_tree_counts_what_each_part_passes_costs_and_cannot_answer(table: Table, rows: list[Row]) -> None:
    executor = Executor(LocalRunner(table))
    line = "keep species = 'oak' AND (length_mm > 2500 OR moisture_pct < 9) AND off (length_mm > 99)"
    result = list(executor.run(Cut("", (Line(line),))))[-1]
    found = {branch.text: branch for branch in branches(result, executor, CancelToken())}
    long = [length is not None and length > 2500 for _, length, _ in rows]
    dry = [moisture is not None and moisture < 9 for _, _, moisture in rows]
    oak = [species == "oak" for species, _, _ in rows]
    left = sum(wood and (one or other) for wood, one, other in zip(oak, long, dry, strict=True))
    assert result.rows.count == left
    assert found["species = 'oak'"].passes == sum(oak)
    assert found["species = 'oak'"].unknown == sum(species is None for species, _, _ in rows)
    assert found["species = 'oak'"].costs == sum(one or other for one, other in zip(long, dry, strict=True)) - left
    assert found["length_mm > 2500"].costs == sum(a and b for a, b in zip(oak, dry, strict=True)) - left
    off = next(branch for branch in branches(result, executor, CancelToken()) if branch.is_off)
    assert (off.text, off.costs) == ("length_mm > 99", None)
    assert off.passes == sum(length is not None for _, length, _ in rows)


@pytest.mark.few(2)
@pytest.mark.parametrize(
    "line",
    [
        "keep species IN ('oak', 'ash') AND moisture_pct < 20 AND length_mm BETWEEN 2000 AND 2500",
        "keep species = 'oak' OR (length_mm > 2900 AND NOT moisture_pct > 9)",
        "drop species IN ('oak', 'ash') OR moisture_pct > 20",
        "drop length_mm >= 2500 AND species = 'oak'",
        "keep NOT species = 'oak'",
    ],
)
def test_a_row_is_called_back_by_every_way_offered(table: Table, line: str) -> None:
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line(line),))))[-1]
    gone = [int(row) for row in result.offcut.rows.ids(0, 40)]
    for row in gone:
        ways = list(ways_back(result, row, executor, CancelToken()))
        assert ways[-1].says == "this row alone"
        assert ways[-1].leaves == result.rows.count + 1
        for way in ways:
            after = run_lines(table, way.text)[0].rows
            assert (after.count, row in ids_of(after)) == (way.leaves, True), (row, way)
            assert set(ids_of(result.rows)) <= set(ids_of(after)), (row, way)


@pytest.mark.parametrize(
    ("line", "row", "ways"),
    [
        ("keep species = 'oak' AND n < 20", 1, ["keep species IN ('oak', 'ash') AND n <= 25"]),
        ("keep d = 'x' OR n > 30", 1, ["keep d IN ('x', 'y') OR n > 30", "keep d = 'x' OR n >= 25"]),
        ("keep d = 'x' OR n > 30", 2, ["keep d IS NULL OR d = 'x' OR n > 30", "keep d = 'x' OR n >= 5"]),
        ("keep n BETWEEN 11 AND 20", 1, ["keep n BETWEEN 11 AND 25"]),
        ("keep n BETWEEN 11 AND 20", 2, ["keep n BETWEEN 5 AND 20"]),
        ("drop n < 20", 2, ["drop n < 5"]),
    ],
)
def test_the_ways_are_the_nearest_ones(table_of: WriteTable, line: str, row: int, ways: list[str]) -> None:
    small = table_of(["species", "n", "d"], [["oak", 10, "x"], ["ash", 25, "y"], ["asp", 5, None]])
    executor = Executor(LocalRunner(small))
    result = list(executor.run(Cut("", (Line(line),))))[-1]
    assert [way.text for way in ways_back(result, row, executor, CancelToken())][:-1] == ways


def ids_of(rows: RowSet) -> list[int]:
    return [int(row) for row in rows.ids(0, rows.count)]


@pytest.mark.parametrize(
    "line", ["keep species = 'oak' AND moisture_pct < 20", "drop species = 'oak' OR length_mm > 2500"]
)
def test_every_removed_row_has_one_reason_and_its_group_says_it(table: Table, rows: list[Row], line: str) -> None:
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line(line),))))[-1]
    groups = reason_groups(result, executor, CancelToken())
    assert sorted(row for group in groups for row in ids_of(group.rows)) == ids_of(result.offcut.rows)
    counts = [group.rows.count for group in groups]
    assert counts == sorted(counts, reverse=True)
    said = {group.says: set(ids_of(group.rows)) for group in groups}
    if line.startswith("keep"):
        wet = {row for row, (wood, _, moisture) in enumerate(rows) if wood == "oak" and moisture and moisture >= 20}
        assert said["not moisture_pct < 20"] == wet
        neither = {row for row, (wood, _, moisture) in enumerate(rows) if wood is None and moisture is None}
        assert said["no answer to species = 'oak' · no answer to moisture_pct < 20"] == neither
    else:
        both = {row for row, (wood, length, _) in enumerate(rows) if wood == "oak" and length and length > 2500}
        assert said["species = 'oak' · length_mm > 2500"] == both


def test_the_rows_of_a_part_are_those_it_alone_takes(table: Table, rows: list[Row]) -> None:
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line("keep species = 'oak' AND (length_mm > 2500 OR moisture_pct < 9)"),))))[-1]
    found = rows_of_part(result, executor, (0,), CancelToken())
    assert ids_of(found) == [
        row
        for row, (wood, length, moisture) in enumerate(rows)
        if wood != "oak" and ((length or 0) > 2500 or (moisture is not None and moisture < 9))
    ]
    assert ids_of(rows_of_part(result, executor, (1, 0), CancelToken())) == []
