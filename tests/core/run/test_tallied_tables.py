"""What a tally leaves is a table: later lines, comparisons, files and odd values."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest

from commands import yardcut
from helpers import WriteTable, run_lines
from tallied import COLUMNS, cells, grouped, rows_of, run_with
from thoroughness import some
from yardcut.core.errors import ListError
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.run.explaining.behind_figures import behind_figure
from yardcut.core.run.looking.two_sides import Side, compared, looked_at
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS


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
             "draw first 2", "draw bottom 1 by n per species", "keep REPEATED(species)"]
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


@pytest.mark.long
def test_three_thousand_columns_and_a_tally_of_one(table_of: WriteTable) -> None:
    table = table_of([f"c{number}" for number in range(3000)], [list(range(3000)), list(range(3000))])
    result = run_lines(table, "tally SUM(c2999) AS s, " + ", ".join(f"MAX(c{n})" for n in range(200)) + " per c0")[-1]
    assert cells(result)[0][:2] == ("0", str(2 * 2999))


def test_a_group_a_row_and_no_value_anywhere(table_of: WriteTable) -> None:
    table = table_of(["k", "v"], [(str(number), "") for number in range(3000)] + [("", "")])
    result = run_lines(table, "tally COUNT(*), COUNT(v), MIN(v), COUNT(DISTINCT v) AS d per k")[-1]
    assert result.rows.count == 3001
    assert {row[1:] for row in cells(result)} == {("1", "0", None, "0")}


@pytest.mark.parametrize("along", ["", " along grade"])
def test_rows_put_together_have_no_number_in_the_source(tmp_path: Path, along: str) -> None:
    (tmp_path / "p.csv").write_text("species,grade\noak,A\nash,B\n")
    done = yardcut(
        "cut", "p.csv", "-l", f"tally COUNT(*) AS n per species{along}", "-l", "make r = SOURCE_ROW", cwd=tmp_path
    )
    assert done.returncode == 2
    assert "have no number in the source" in done.stderr


@pytest.mark.parametrize("seed", some(range(6), 2))
def test_totals_across_are_those_of_the_rows(table_of: WriteTable, seed: int) -> None:
    from yardcut.core.progress import CancelToken
    from yardcut.core.run.executing.executor import Executor
    from yardcut.core.run.looking.tally_totals import tally_totals
    from yardcut.core.scanning.local import LocalRunner

    chance = random.Random(seed)
    rows = [[chance.choice("abc"), chance.choice(["x", "y", ""]), str(chance.randrange(100))] for _ in range(60)]
    table = table_of(["g", "k", "v"], rows)
    executor = Executor(LocalRunner(table))
    for line in (
        "tally SUM(v) AS s, COUNT(*) AS n per g along k",
        "tally SUM(v) AS s, COUNT(*) AS n per g along k IN SEQUENCE ('y')",
    ):
        result = run_lines(table, line)[-1]
        totals = tally_totals(result, executor, CancelToken())
        groups = list(dict.fromkeys(row[0] for row in rows))
        of = {group: [int(row[2]) for row in rows if row[0] == group] for group in groups}
        assert totals.beside == (
            ("s", tuple(str(sum(of[group])) for group in groups), str(sum(map(sum, of.values())))),
            ("n", tuple(str(len(of[group])) for group in groups), "60"),
        )
