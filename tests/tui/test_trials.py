"""What a line being written would do, before it is on the list; what grids and gauges are given of a moment."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.tui.desk.column_looks import Looks
from yardcut.tui.desk.desk import Desk
from yardcut.tui.desk.grids import FrameSource, moment_source, trial_source
from yardcut.tui.desk.offering.cell_lines import line_about
from yardcut.tui.desk.trials import Draft, Trial, try_line, values_at
from yardcut.tui.desk.view import View
from yardcut.tui.main.prompting.said import said_of
from yardcut.tui.widgets.grid.grid_source import Mark


@pytest.fixture
def desk(yard: Path) -> Desk:
    session = Session(yard / "yard_2031.csv")
    session.open()
    return Desk(session)


def enter(desk: Desk, *lines: str) -> None:
    for line in lines:
        desk.edits.enter(line, len(desk.now.lines) - 1)
    desk.counted(list(desk.now.executor.run_bound(desk.now.lines)))


def attempt(desk: Desk, text: str, selected: int, editing: int | None = None, seed: int = 7) -> Trial:
    looks = Looks(desk.now.executor.runner)
    draft = Draft(text, selected, editing, seed)
    return try_line(desk.now, draft, looks, lambda trial: None, CancelToken(), Progress())


def source_of(desk: Desk) -> FrameSource:
    source = moment_source(desk.now)
    assert source is not None
    return source


def test_a_trial_leaves_the_list_as_it_is(desk: Desk) -> None:
    enter(desk, "drop bay = 'ALL BAYS'")
    trial = attempt(desk, "keep grade = 'A'", 0)
    assert trial.result is not None
    assert trial.result.before.rows.count == 7400
    assert len(desk.now.lines) == 1
    said = said_of(trial)
    assert said.said.startswith(f"would leave {trial.result.rows.count:,} of 7,400 · takes ")
    assert "(as line 2)" in said.said


def test_an_edited_line_is_tried_in_its_own_place(desk: Desk) -> None:
    enter(desk, "drop bay = 'ALL BAYS'", "keep grade = 'A'", "draw first 5")
    trial = attempt(desk, "keep grade = 'B'", 2, editing=1)
    assert trial.result is not None
    assert trial.result.before.rows.count == 7400
    assert "(as line 2)" in said_of(trial).said


def test_what_is_wrong_comes_with_place_and_mend(desk: Desk) -> None:
    trial = attempt(desk, "keep species = oak && grade == 'A'", -1)
    assert trial.mend == "keep species = 'oak' AND grade = 'A'"
    said = said_of(trial)
    assert "F2 writes  keep species = 'oak' AND grade = 'A'   (would leave " in said.said
    assert said.error is not None
    assert trial.draft.text[slice(*said.error)] == "&"
    right = attempt(desk, trial.mend, -1)
    assert right.result is not None
    assert right.result.rows.count == trial.mend_leaves


@pytest.mark.parametrize(
    "line", ["draw chance 1 in 10", "draw random 40", "order at random", "draw random 3 per species"]
)
def test_the_rows_previewed_are_those_that_enter_takes(desk: Desk, line: str) -> None:
    trial = attempt(desk, line, -1, seed=4711)
    assert trial.result is not None
    desk.edits.enter(line, -1, 4711)
    assert "seed 4711" in desk.now.lines[0].line.text
    (result,) = desk.now.executor.run_bound(desk.now.lines)
    count = trial.result.rows.count
    assert result.rows.ids(0, count + 1).tolist() == trial.result.rows.ids(0, count + 1).tolist()


@pytest.mark.parametrize(
    ("line", "style"),
    [
        ("keep grade = 'A'", "$would"), ("keep grade = 'none'", "$warning"), ("drop grade = 'none'", "$dim"),
        ("keep SOURCE_ROW > 0", "$dim"), ("keep grad = 'A'", "$warning"), ("off keep grade = 'A'", "$dim"),
    ],
)  # fmt: skip
def test_what_takes_all_or_nothing_is_not_said_as_a_success(desk: Desk, line: str, style: str) -> None:
    assert said_of(attempt(desk, line, -1)).style == style


def test_rows_gone_for_want_of_a_value_name_their_column(desk: Desk) -> None:
    said = said_of(attempt(desk, "keep NOT remark = 'x'", -1)).said
    assert "for want of a value in remark" in said
    offered = said.split("to keep those rows too: ")[1].split(" · ")[0]
    assert offered == "keep remark IS NULL OR NOT remark = 'x'"
    plain, kept = attempt(desk, "keep NOT remark = 'x'", -1).result, attempt(desk, offered, -1).result
    assert plain is not None
    assert kept is not None
    assert kept.rows.count == plain.rows.count + plain.unknown_taken
    assert "to keep those rows too" not in said_of(attempt(desk, "keep remark = 'x'", -1)).said


def test_columns_renamed_above_are_known_before_anything_is_counted(desk: Desk) -> None:
    desk.edits.enter("columns ticket, species AS wood", -1)
    assert desk.now.results == ()
    trial = attempt(desk, "keep wood = 'oak'", 0)
    assert trial.error is None
    assert trial.result is not None


def test_counts_of_values_are_those_of_the_rows_that_reach_the_line(desk: Desk) -> None:
    enter(desk, "keep grade = 'A'", "keep species = 'oak'")
    looks = Looks(desk.now.executor.runner)
    for selected, lines in ((-1, []), (0, ["A"]), (1, ["A"])):
        values = values_at(desk.now, selected, looks, CancelToken())
        column = desk.now.scope_at(selected).find("grade")
        assert column is not None
        frequent = values(column)
        assert not frequent.about
        frame = desk.now.frame_at(selected)
        assert frame is not None
        place = [each.name for each in frame.columns].index("grade")
        (cells,) = frame.page(0, frame.rows.count, [place]).cells
        assert dict(frequent.values) == {text: cells.count(text) for text in set(cells) - {None}}
        assert all(only in dict(frequent.values) for only in lines)


def test_a_column_restricted_or_sorted_is_marked_in_its_head(desk: Desk) -> None:
    enter(desk, "keep grade = 'A'", "order felled_on DESC, species")
    heads = {column.name: column for column in source_of(desk).columns}
    assert heads["grade"].restricted
    assert (heads["felled_on"].sort, heads["felled_on"].descending) == (1, True)
    assert (heads["species"].sort, heads["species"].descending) == (2, False)
    desk.select(0)
    assert all(column.sort == 0 for column in source_of(desk).columns)
    enter(desk, "draw top 5 by price_per_m3")
    heads = {column.name: column for column in source_of(desk).columns}
    assert (heads["price_per_m3"].sort, heads["price_per_m3"].descending) == (1, True)
    assert heads["felled_on"].sort == 0


def test_rows_a_line_would_take_are_marked_by_why(desk: Desk) -> None:
    trial = attempt(desk, "keep moisture_pct <= 18", -1)
    assert trial.result is not None
    page = trial_source(desk.now, trial.result, 0, marked=True).page(0, 200, [31 - 1])
    marks = {
        (cell is None, cell is not None and float(cell) <= 18): mark
        for cell, mark in zip(page.cells[0], page.marks, strict=True)
    }
    assert marks == {(True, False): Mark.UNKNOWN, (False, True): Mark.STAYS, (False, False): Mark.GOES}
    after = trial_source(desk.now, trial.result, 0, marked=False)
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
def test_one_key_on_a_cell_writes_a_line(column: str, kind: str, cell: str | None, line: str) -> None:
    assert line_about("drop", column, kind, cell) == line


def test_figures_are_kept_by_the_rows_and_the_value_never_by_the_line(desk: Desk) -> None:
    enter(desk, "drop bay = 'ALL BAYS'", "keep grade = 'A'")
    looks = Looks(desk.now.executor.runner)
    source = source_of(desk)
    column = next(column for column in source.rows.frame.columns if column.name == "price_per_m3")
    assert looks.known_summary(source.rows, column) is None
    assert source.above is not None
    now = looks.summary(source.rows, column, CancelToken())
    before = looks.summary(source.above, column, CancelToken())
    assert (before.rows, now.rows) == (7400, desk.now.results[1].rows.count)
    # another cut of the same rows finds them, the same line number over other rows does not
    desk.edits.delete_line(desk.now.selected)
    desk.counted(list(desk.now.executor.run_bound(desk.now.lines)))
    assert looks.known_summary(source_of(desk).rows, column) == before
    enter(desk, "keep grade = 'B'")
    assert looks.known_summary(source_of(desk).rows, column) is None
    enter(desk, "make price_per_m3 = price_per_m3 * 2")
    doubled = next(column for column in source_of(desk).rows.frame.columns if column.name == "price_per_m3")
    assert looks.known_summary(source_of(desk).rows, doubled) is None


def test_the_gauge_of_an_offcut_tells_of_the_offcut(desk: Desk) -> None:
    enter(desk, "keep grade = 'A'")
    desk.look_at(View.OFFCUT)
    source = source_of(desk)
    assert source.label == "offcut of line 1"
    assert source.row_count == desk.now.results[0].taken
    column = source.rows.frame.columns[0]
    assert Looks(desk.now.executor.runner).summary(source.rows, column, CancelToken()).rows == source.row_count
