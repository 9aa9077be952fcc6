"""The bench: what a line being written would do, before it is on the list."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.bench import Bench, Trial
from yardcut.tui.writing import LineWriter, said_of


@pytest.fixture
def bench(yard: Path) -> Bench:
    bench = Bench(yard / "yard_2031.csv")
    bench.session.open()
    return bench


def enter(bench: Bench, *lines: str) -> None:
    for line in lines:
        bench.session.enter(line, len(bench.session.cut.lines) - 1)
    bench.results = bench.run(CancelToken(), Progress(), lambda result: None)


def attempt(bench: Bench, text: str, selected: int, editing: int | None = None) -> Trial:
    return LineWriter(bench, selected, editing).attempt(text, CancelToken(), Progress())


def test_a_trial_leaves_the_list_as_it_is(bench: Bench) -> None:
    enter(bench, "drop bay = 'ALL BAYS'")
    trial = attempt(bench, "keep grade = 'A'", 0)
    assert trial.result is not None
    assert trial.result.before.rows.count == 7400
    assert len(bench.session.cut.lines) == 1
    said = said_of(trial, 2)
    assert said.said.startswith(f"would leave {trial.result.rows.count:,} of 7,400 · takes ")
    assert said.said.endswith("(as line 2)")


def test_an_edited_line_is_tried_in_its_own_place(bench: Bench) -> None:
    enter(bench, "drop bay = 'ALL BAYS'", "keep grade = 'A'", "draw first 5")
    trial = attempt(bench, "keep grade = 'B'", 2, editing=1)
    assert trial.result is not None
    assert trial.result.before.rows.count == 7400
    assert said_of(trial, 2).said.endswith("(as line 2)")


def test_what_is_wrong_comes_with_place_and_mend(bench: Bench) -> None:
    trial = attempt(bench, "keep species = oak && grade == 'A'", -1)
    assert trial.mend == "keep species = 'oak' AND grade = 'A'"
    said = said_of(trial, 1)
    assert "F2 writes  keep species = 'oak' AND grade = 'A'" in said.said
    assert said.error is not None
    assert trial.text[slice(*said.error)] == "&"


def test_a_column_restricted_or_sorted_is_marked_in_its_head(bench: Bench) -> None:
    enter(bench, "keep grade = 'A'", "order felled_on DESC, species")
    source = bench.grid(1)
    assert source is not None
    heads = {column.name: column for column in source.columns}
    assert heads["grade"].restricted
    assert (heads["felled_on"].sort, heads["felled_on"].descending) == (1, True)
    assert (heads["species"].sort, heads["species"].descending) == (2, False)
    before = bench.grid(0)
    assert before is not None
    assert all(column.sort == 0 for column in before.columns)


def test_rows_a_line_would_take_are_marked_by_why(bench: Bench) -> None:
    trial = attempt(bench, "keep moisture_pct <= 18", -1)
    source = bench.trial_grid(trial, marked=True)
    assert source is not None
    page = source.page(0, 200, [31 - 1])
    marks = {
        (cell is None, cell is not None and float(cell) <= 18): mark
        for cell, mark in zip(page.cells[0], page.marks, strict=True)
    }
    assert marks == {(True, False): "unknown", (False, True): "", (False, False): "goes"}
    after = bench.trial_grid(trial, marked=False)
    assert after is not None
    assert trial.result is not None
    assert after.row_count == trial.result.rows.count


@pytest.mark.parametrize(
    ("column", "kind", "cell", "line"),
    [
        ("bay", "text", "ALL BAYS", "drop bay = 'ALL BAYS'"),
        ("price_per_m3", "number", "12.5", "drop price_per_m3 = 12.5"),
        ("reserved", "boolean", "true", "drop reserved = TRUE"),
        ("felled_on", "date", "2031-03-01", "drop felled_on = '2031-03-01'"),
        ("odd name", "integer", None, 'drop "odd name" IS NULL'),
        ("note", "text", "it's\n", "drop note = U&'it''s\\000A'"),
    ],
)
def test_one_key_on_a_cell_writes_a_line(bench: Bench, column: str, kind: str, cell: str | None, line: str) -> None:
    assert bench.line_about("drop", column, kind, cell) == line


def test_the_gauge_compares_with_the_line_above(bench: Bench) -> None:
    enter(bench, "drop bay = 'ALL BAYS'", "keep grade = 'A'")
    column = next(column.number for column in bench.table.columns if column.name == "price_per_m3")
    now, before = bench.summary(column, 1, CancelToken())
    assert before is not None
    assert (before.rows, now.rows) == (7400, bench.results[1].rows.count)
    assert bench.summary(column, -1, CancelToken())[1] is None
