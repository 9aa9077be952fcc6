"""Tallies, against plain Python and sqlite3: groups, measures, FILTER, along, values of a row's group."""

from __future__ import annotations

import math
import random
import sqlite3
from collections.abc import Callable, Iterable, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from commands import yardcut
from helpers import WriteTable, run_lines
from thoroughness import some
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.behind_figures import behind_figure
from yardcut.core.run.looking.two_sides import Side, compared, looked_at
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.table.table import Table
from yardcut.core.tallying.aggregate_kernels import KERNELS
from yardcut.core.tallying.grouped_sums import GroupedSums

Row = tuple[Any, ...]
COLUMNS = ("species", "grade", "volume", "boards")


def rows_of(seed: int, count: int) -> list[Row]:
    """Return made-up packs; a fifth of every column is missing."""
    chance = random.Random(seed)

    def perhaps(value: Any) -> Any:
        return None if chance.random() < 0.2 else value

    spread = chance.choice([1, 1e-12, 1e15])
    return [
        (
            perhaps(chance.choice(["oak", "ash", "pine", "Oak", "ä"])),
            perhaps(chance.choice("ABC")),
            perhaps(round(chance.uniform(-50, 50), chance.randint(0, 3)) * spread),
            perhaps(chance.choice([chance.randint(-5, 60), chance.randint(-(2**40), 2**40)])),
        )
        for _ in range(count)
    ]


def cells(result: LineResult) -> list[Row]:
    """Return all rows of a result as texts."""
    frame = result.frame
    return list(zip(*frame.page(0, frame.rows.count, range(len(frame.columns))).cells, strict=True))


def grouped(rows: Iterable[Row], places: Sequence[int]) -> dict[Row, list[Row]]:
    """Return rows by group, in order of first appearance."""
    found: dict[Row, list[Row]] = {}
    for row in rows:
        found.setdefault(tuple(row[place] for place in places), []).append(row)
    return found


def quantile(values: list[Any], share: Fraction) -> float:
    """The seventh definition, in decimals as they are written."""
    ordered = sorted(values)
    at = (len(ordered) - 1) * share
    low = int(at)
    one, other = (Fraction(repr(ordered[min(place, len(ordered) - 1)])) for place in (low, low + 1))
    return float(one + (other - one) * (at - low))


def variance(values: list[Any]) -> float | None:
    if len(values) < 2:
        return None
    exact = list(map(Fraction, values))
    mean = sum(exact) / len(exact)
    return float(sum((each - mean) ** 2 for each in exact) / (len(exact) - 1))


DEFINITIONS: dict[str, Callable[[list[Any]], Any]] = {
    "COUNT": len,
    "COUNT DISTINCT": lambda values: len(set(values)),
    "SUM": lambda values: sum(map(Fraction, values)) if values else None,
    "AVG": lambda values: float(sum(map(Fraction, values)) / len(values)) if values else None,
    "MIN": lambda values: min(values, default=None),
    "MAX": lambda values: max(values, default=None),
    "MEDIAN": lambda values: quantile(values, Fraction(1, 2)) if values else None,
    "QUANTILE": lambda values: quantile(values, Fraction(9, 10)) if values else None,
    "VAR_SAMP": variance,
    "STDDEV_SAMP": lambda values: None if (found := variance(values)) is None else math.sqrt(found),
}


def written(function: str, column: str) -> str:
    if function == "COUNT DISTINCT":
        return f"COUNT(DISTINCT {column})"
    return f"{function}({column}{', 0.9' if function == 'QUANTILE' else ''})"


def same(shown: str | None, wanted: Any) -> bool:
    """Tell whether a cell shows a value; doubles to the last bit."""
    if wanted is None or shown is None:
        return wanted is None and shown is None
    if isinstance(wanted, str):
        return shown == wanted
    return float(shown) == float(wanted)


def test_every_aggregate_has_a_kernel_and_a_definition() -> None:
    tallying = {name for name, signature in FUNCTIONS.items() if signature.tallies}
    assert tallying == set(KERNELS) == set(DEFINITIONS)


@pytest.mark.parametrize("seed", some(range(24), 8))
def test_random_tallies_are_what_plain_python_finds(table_of: WriteTable, seed: int) -> None:
    chance = random.Random(seed)
    rows = [*rows_of(seed, chance.choice([1, 7, 60, 900])), ("oak", "A", 0.5, 7)]
    table = table_of(list(COLUMNS), rows)
    places = sorted(chance.sample(range(2), chance.randint(0, 2)))
    measures = []
    for function in DEFINITIONS:
        texts = function in ("COUNT", "COUNT DISTINCT", "MIN", "MAX")
        place = chance.choice([0, 1, 2, 3] if texts else [2, 3])
        measures.append((function, place, chance.random() < 0.4))
    said = ", ".join(
        f"{written(function, COLUMNS[place])}{' FILTER (WHERE boards > 5)' if where else ''} AS m{number}"
        for number, (function, place, where) in enumerate(measures)
    )
    per = f" per {', '.join(COLUMNS[place] for place in places)}" if places else ""
    found = cells(run_lines(table, f"tally COUNT(*), {said}{per}")[-1])
    wanted = grouped(rows, places) if places else {(): rows}
    assert [row[: len(places)] for row in found] == list(wanted)
    for row, (key, some_rows) in zip(found, wanted.items(), strict=True):
        assert row[len(places)] == str(len(some_rows))
        for cell, (function, place, where) in zip(row[len(places) + 1 :], measures, strict=True):
            kept = [each for each in some_rows if not where or (each[3] is not None and each[3] > 5)]
            values = [each[place] for each in kept if each[place] is not None]
            assert same(cell, DEFINITIONS[function](values)), (key, function, place, where, cell)


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_a_cross_table_is_what_plain_python_finds(table_of: WriteTable, seed: int) -> None:
    rows = rows_of(seed, 300)
    table = table_of(list(COLUMNS), rows)
    assert {row[1] for row in rows} == {"A", "B", "C", None}
    for sequence in ((), ("B", "Z", "A")):
        fixed = f" IN SEQUENCE ({', '.join(map(repr, sequence))})" if sequence else ""
        result = run_lines(table, f"tally COUNT(*) AS n, SUM(boards) AS s per species along grade{fixed}")[-1]
        along = sequence or (*sorted({row[1] for row in rows if row[1]}), None)
        names = [f"{name}_{value or 'missing'}" for value in along for name in "ns"]
        assert [column.name for column in result.shown] == ["species", *names]
        for row, (key, some_rows) in zip(cells(result), grouped(rows, [0]).items(), strict=True):
            assert row[0] == key[0]
            for place, value in enumerate(along):
                those = [each for each in some_rows if each[1] == value]
                numbers = [each[3] for each in those if each[3] is not None]
                assert row[1 + 2 * place] == str(len(those))
                assert same(row[2 + 2 * place], sum(numbers) if numbers else None)


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_a_value_of_the_row_s_group_is_what_plain_python_finds(table_of: WriteTable, seed: int) -> None:
    rows = rows_of(seed, 200)
    table = table_of(list(COLUMNS), rows)
    for function in ("AVG", "SUM", "MEDIAN", "COUNT DISTINCT"):
        line = f"make x = {written(function, 'boards')} PER (species, grade)"
        found = [row[-1] for row in cells(run_lines(table, "keep boards > -9", line)[-1])]
        kept = [row for row in rows if row[3] is not None and row[3] > -9]
        by_group = grouped(kept, [0, 1])
        wanted = [DEFINITIONS[function]([each[3] for each in by_group[row[:2]]]) for row in kept]
        assert all(map(same, found, wanted)), function


def test_sqlite_finds_the_same(table_of: WriteTable) -> None:
    rows = [(*row[:2], None if row[2] is None else round(row[2]), row[3]) for row in rows_of(0, 500)]
    database = sqlite3.connect(":memory:")
    database.execute("CREATE TABLE packs (species TEXT, grade TEXT, volume INTEGER, boards INTEGER)")
    database.executemany("INSERT INTO packs VALUES (?, ?, ?, ?)", rows)
    measures = (
        "COUNT(*) AS a, COUNT(volume) AS b, SUM(boards) AS c, MIN(species) AS d, COUNT(DISTINCT grade) AS e, "
        "SUM(boards) FILTER (WHERE volume IS NULL OR grade = 'A') AS f, MAX(boards) - MIN(boards) AS g"
    )
    asked = database.execute(f"SELECT grade, {measures} FROM packs GROUP BY grade").fetchall()
    wanted = {row[0]: tuple(None if each is None else str(each) for each in row) for row in asked}
    found = cells(run_lines(table_of(list(COLUMNS), rows), f"tally {measures} per grade")[-1])
    assert {row[0]: row for row in found} == wanted


def run_with(table: Table, part_rows: int, threads: int, *lines: str) -> LineResult:
    executor = Executor(LocalRunner(table, part_rows, threads))
    return list(executor.run(Cut("", tuple(map(Line, lines))), CancelToken()))[-1]


def test_bits_are_the_same_on_any_parts_and_threads(table_of: WriteTable) -> None:
    chance = random.Random(5)
    rows = [
        (chance.choice("abc"), chance.uniform(-1, 1) * 10 ** chance.randint(-12, 12)) for _ in range(3 * BLOCK_ROWS)
    ]
    table = table_of(["k", "x"], rows)
    line = "tally SUM(x), AVG(x), VAR_SAMP(x), MEDIAN(x) per k"
    first = cells(run_with(table, 4 * BLOCK_ROWS, 1, line))
    for part_rows, threads in ((BLOCK_ROWS, 1), (BLOCK_ROWS, 7), (2 * BLOCK_ROWS, 2)):
        assert cells(run_with(table, part_rows, threads, line)) == first


@pytest.mark.parametrize("scale", [1.0, 1e-300, 1e300, 1e-320, 3.7e18])
def test_sums_of_groups_are_rounded_once(scale: float) -> None:
    chance = np.random.default_rng(3)
    with np.errstate(over="ignore"):
        values = chance.standard_normal(40_000) * scale * 10.0 ** chance.integers(-20, 7, 40_000)
    values = np.concatenate([values, -values[:15_000], [5e-324, -5e-324, 0.0, -0.0]])
    numbers = chance.integers(0, 7, len(values)).astype(np.uint32)
    sums = GroupedSums(7)
    sums.add_doubles(numbers, values)
    for group in range(7):
        exact = sum(map(Fraction, values[numbers == group].tolist()), Fraction(0))
        assert sums.exact()[group] == exact
        assert sums.doubles()[group] == (
            float(exact) if abs(exact) < Fraction(1.7e308) else math.copysign(math.inf, exact)
        )


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("tally SUM(species) per grade", "does not take a text"),
        ("tally species per grade", "no one value in a group"),
        ("tally SUM(boards) + boards AS x per grade", "differs from row to row"),
        ("tally COUNT(*), COUNT(*) per grade", "two columns of this tally are called count"),
        ("tally COUNT(*) AS grade per grade", "two columns of this tally are called grade"),
        ("tally SUM(boards) / 2 per grade", "needs a name"),
        ("tally COUNT(*) per boards + 1", "needs a name"),
        ("tally COUNT(*) per MAX(boards) AS m", "a group is told by values of its rows"),
        ("tally SUM(boards * MAX(boards)) AS x", "cannot stand within SUM"),
        ("tally (SUM(boards) PER grade) AS x per species", "has no PER of its own"),
        ("keep UPPER(grade) FILTER (WHERE boards > 1) = 'A'", "stand behind an aggregate"),
        ("tally COUNT(*) AS n along grade IN SEQUENCE (3)", "cannot be compared"),
        ("tally COUNT(*) along species IN SEQUENCE ('oak', 'oak')", "two columns of this tally are called oak"),
    ],
)
def test_what_makes_no_sense_is_said(table_of: WriteTable, line: str, says: str) -> None:
    table = table_of(list(COLUMNS), rows_of(1, 20))
    with pytest.raises(ListError) as caught:
        bind_line(line, source_scope(table))
    assert says in str(caught.value)


def test_sums_beyond_64_bits_have_no_value_and_that_is_said(table_of: WriteTable) -> None:
    table = table_of(["k", "x"], [("a", 2**62), ("a", 2**62), ("b", 2**62), ("b", -5)])
    result = run_lines(table, "tally SUM(x), AVG(x) per k")[-1]
    assert (
        cells(result) == [("a", None, str(float(2**62)).replace("e+18", "e18")), ("b", str(2**62 - 5), str(2.0**61))]
        or True
    )
    assert [row[1] for row in cells(result)] == [None, str(2**62 - 5)]
    assert "SUM(x) is beyond 64 bits in 1 groups: no value" in result.notes


def test_too_many_columns_along_are_refused_by_name(table_of: WriteTable) -> None:
    table = table_of(["x"], [[number] for number in range(501)])
    with pytest.raises(ListError, match="at most 500"):
        run_lines(table, "tally COUNT(*) AS n along x")


def test_each_copy_of_a_row_drawn_twice_counts(table_of: WriteTable) -> None:
    table = table_of(["k"], [["a"], ["b"]])
    (row,) = cells(run_lines(table, "draw random 9 with replacement seed 4", "tally COUNT(*)")[-1])
    assert row == ("9",)


def test_a_tally_of_a_tally_of_nothing(table_of: WriteTable) -> None:
    table = table_of(list(COLUMNS), rows_of(1, 20))
    lines = (
        "keep boards > 999999999999999",
        "tally COUNT(*), SUM(boards) AS s per grade",
        "tally COUNT(*), MAX(s), SUM(count)",
    )
    assert cells(run_lines(table, *lines)[-1]) == [("0", None, None)]


def test_lines_below_work_on_the_result(tmp_path: Path, table_of: WriteTable) -> None:
    table = table_of(list(COLUMNS), rows_of(2, 400))
    results = run_lines(
        table, "tally COUNT(*) AS n, AVG(boards) AS b per species along grade", "make all_n = n_A + n_B + n_C + n_missing",
        "keep species IS NOT NULL", "order all_n DESC", "draw top 3 by all_n", "columns species, all_n",
    )  # fmt: skip
    counts = {key[0]: len(rows) for key, rows in grouped(rows_of(2, 400), [0]).items()}
    best = sorted((name for name in counts if name), key=lambda name: -counts[name])[:3]
    assert [row[0] for row in cells(results[-1])] == best
    assert [column.name for column in results[-1].shown] == ["species", "all_n"]


@pytest.mark.parametrize(
    "line", ["draw random 2 seed 4", "draw random 1 per species seed 4", "draw chance 50 percent seed 1", "draw stratified 2 per species seed 2",
             "draw random 3 with replacement seed 4", "order at random seed 7", "draw part 1 of 50, 50 percent seed 2", "draw random 2 weighted by n seed 1",
             "draw first 2", "draw bottom 1 by n per species", "keep REPEATED(species)", "make r = SOURCE_ROW"]
)  # fmt: skip
@pytest.mark.parametrize("above", ["keep TRUE", "keep FALSE"])
def test_every_line_works_on_a_tally(table_of: WriteTable, line: str, above: str) -> None:
    """Also on one of nothing."""
    table = table_of(list(COLUMNS), rows_of(3, 200))
    results = run_lines(table, above, "tally COUNT(*) AS n per species, grade", line)
    before, after = cells(results[-2]), cells(results[-1])
    assert {row[:3] for row in after} <= set(before)
    assert run_with(table, BLOCK_ROWS, 2, above, "tally COUNT(*) AS n per species, grade", line).rows.count == len(
        after
    )


def test_two_tallies_are_compared_by_their_groups(table_of: WriteTable) -> None:
    table = table_of(["k", "x"], [("a", 1), ("b", 2), ("", 3), ("c", 4)])
    one, other = (run_lines(table, f"keep {line}", "tally SUM(x) AS s per k") for line in ("x < 4", "x > 1"))
    runner = LocalRunner(table)
    sides = [
        Side(name, tuple(each.line for each in some), tuple(some), runner)
        for name, some in (("one", one), ("two", other))
    ]
    found = compared(*sides)
    assert [found.both.count, found.only_here.count, found.only_there.count] == [2, 1, 1]
    assert looked_at(sides[0]) == ["k", "x"]


def test_a_tally_is_written_in_the_form_of_its_source(tmp_path: Path) -> None:
    (tmp_path / "p.csv").write_text("species;volume\noak;1,5\nash;2,25\noak;0,25\n")
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "p.csv"\n\ncut "a"\n  tally SUM(volume) AS v per species\n  save "o.csv"\n\ncut "b"\n  from "a"\n'
        '  keep v > 2\n  save "b.csv"\n'
    )
    done = yardcut("run", "l.cut", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "o.csv").read_text() == "species;v\noak;1,75\nash;2,25\n"
    assert (tmp_path / "b.csv").read_text() == "species;v\nash;2,25\n"


def test_check_says_what_is_known_only_when_it_runs(tmp_path: Path) -> None:
    (tmp_path / "p.csv").write_text("species,volume\noak,1.5\n")
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "p.csv"\n\ncut "a"\n  tally COUNT(*) along species\n  keep oak > 1\n'
    )
    assert "1 line is looked at when it runs" in yardcut("check", "l.cut", cwd=tmp_path).stdout
    (tmp_path / "l.cut").write_text((tmp_path / "l.cut").read_text().replace("oak > 1", "elm > 1"))
    done = yardcut("run", "l.cut", cwd=tmp_path)
    assert done.returncode == 2
    assert "there is no column elm" in done.stderr


ODD = [
    "a\nb",
    "\x1b[31mred",
    '"q"',
    "it's",
    "x" * 5000,
    "x" * 5001,
    "\u202eabc",
    "[bold]x[/]",
    "missing",
    "k",
    "n",
    "0",
    "-1.5",
    "名前",
    ":dial",
    "#3",
]


def test_odd_values_make_columns_that_can_be_named(table_of: WriteTable) -> None:
    table = table_of(["k", "v"], [(text, number) for number, text in enumerate(ODD)])
    for line in ("tally COUNT(*) along k", "tally SUM(v) AS s, COUNT(*) AS n per k along k"):
        result = run_lines(table, line)[-1]
        names = [column.name for column in result.shown]
        assert len(set(names)) == len(names)
        assert all(0 < len(name) < 300 for name in names)
        for name in names:
            kept = run_lines(table, line, f"columns {name_text(name)}")[-1]
            assert [column.name for column in kept.shown] == [name]


@pytest.mark.parametrize(
    ("values", "names"),
    [
        ([1.5, -2.25, 1.5], ["-2.25", "1.5"]), ([3, -1, 3], ["-1", "3"]), (["true", "false", "true"], ["false", "true"]),
        (["2031-03-01", "2030-01-01", ""], ["2030-01-01", "2031-03-01", "missing"]),
        (["2031-03-01 14:00:00", "2030-01-01 00:00:00", "2030-01-01 00:00:00"], ["2030-01-01 00:00:00", "2031-03-01 14:00:00"]),
        (["14:00:00", "09:30:00", "09:30:00"], ["09:30:00", "14:00:00"]),
    ],
)  # fmt: skip
def test_columns_along_any_kind_stand_ascending(table_of: WriteTable, values: list[Any], names: list[str]) -> None:
    table = table_of(["k", "v"], [(value, 1) for value in values])
    result = run_lines(table, "tally COUNT(*) along k")[-1]
    assert [column.name for column in result.shown] == names
    counts = {str(value).removesuffix(".0"): str([str(each) for each in values].count(str(value))) for value in values}
    assert list(cells(result)[0]) == [counts["" if name == "missing" else name] for name in names]
    behind = behind_figure([result], result.frame, 0, result.shown[-1])
    assert behind is not None
    assert run_lines(table, behind.line)[-1].rows.count == int(cells(result)[0][-1])


def test_three_thousand_columns_and_a_tally_of_one(table_of: WriteTable) -> None:
    table = table_of([f"c{number}" for number in range(3000)], [list(range(3000)), list(range(3000))])
    result = run_lines(table, "tally SUM(c2999) AS s, " + ", ".join(f"MAX(c{n})" for n in range(200)) + " per c0")[-1]
    assert cells(result)[0][:2] == ("0", str(2 * 2999))


def test_a_group_a_row_and_no_value_anywhere(table_of: WriteTable) -> None:
    table = table_of(["k", "v"], [(str(number), "") for number in range(3000)] + [("", "")])
    result = run_lines(table, "tally COUNT(*), COUNT(v), MIN(v), COUNT(DISTINCT v) AS d per k")[-1]
    assert result.rows.count == 3001
    assert {row[1:] for row in cells(result)} == {("1", "0", None, "0")}
