"""What the list panel says, read as plain text."""

from __future__ import annotations

import pytest

from helpers import WriteTable
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining.tree_counts import branches
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table
from yardcut.tui.panels.list_lines import panel_lines
from yardcut.tui.panels.list_state import ListState

TEXTS = ("keep grade = 'A' AND (length_mm BETWEEN 1 AND 5000 OR grade IS NULL)", "off drop grade = 'B'", "order length_mm DESC, grade NULLS FIRST", "draw random 2 seed 7", "columns grade", 'save "x.csv"')  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["grade", "length_mm"], [["A", 1], ["A", None], ["B", 3], ["A", 4]])


def state_of(table: Table, selected: int, wrong: bool = False) -> ListState:
    texts = (*TEXTS[:2], "keep lenth > 1", *TEXTS[3:]) if wrong else TEXTS
    lines = tuple(bind_cut(Cut("", tuple(Line(text) for text in texts)), table))
    executor = Executor(LocalRunner(table))
    results = tuple(executor.run_bound(lines))
    tree = tuple(branches(results[0], executor, CancelToken())) if selected == 0 else ()
    return ListState(lines, results, "t.csv", table.rows, selected, tree)


def text_of(state: ListState, width: int = 46) -> str:
    lines = ["".join(text for text, _ in line.runs).rstrip() for line in panel_lines(state, width)]
    assert all(len(line) <= width for line in lines)
    return "\n".join(lines)


def test_each_line_has_its_count_and_what_it_took(table: Table) -> None:
    said = text_of(state_of(table, 4))
    assert "source  t.csv" in said
    assert "keep    grade = 'A' AND" in said
    assert "1 of them for want of a value in grade or" in said
    assert "first by length_mm downwards, then by grade" in " ".join(said.split())
    assert "1 column" in said
    assert "1 columns" not in said
    assert "ctrl+s writes the slice" in said
    assert "−2" in said


def test_a_line_that_is_off_says_so(table: Table) -> None:
    line = next(line for line in text_of(state_of(table, 0)).splitlines() if "drop" in line)
    assert line.endswith("off")


def test_the_selected_line_stands_below_as_a_tree(table: Table) -> None:
    said = text_of(state_of(table, 0))
    assert "line 1 in full" in said
    assert "all of" in said
    assert "├ any of" in said
    assert "│ ├ length_mm BETWEEN" in said
    assert "passes" in said


def test_other_lines_stand_below_broken_and_with_their_notes(table: Table) -> None:
    said = text_of(state_of(table, 3))
    assert "draw random 2 seed 7" in said
    assert "seed 7" in said.split("line 4 in full")[1]


def test_a_wrong_line_says_what_is_wrong_and_the_rest_waits(table: Table) -> None:
    said = text_of(state_of(table, 2, wrong=True))
    assert "wrong" in said
    assert "there is no column lenth" in said
    assert said.count("waits") == 3


def test_nothing_is_said_before_anything_is_known() -> None:
    said = text_of(ListState(source="t.csv"))
    assert "…" in said
    assert "no lines yet" in said


def test_a_clipped_phrase_takes_a_second_line_where_there_is_room(table: Table) -> None:
    state = state_of(table, 4)
    low = ["".join(text for text, _ in line.runs).rstrip() for line in panel_lines(state, 46, 12)]
    tall = ["".join(text for text, _ in line.runs).rstrip() for line in panel_lines(state, 46, 60)]
    assert len(tall) > len(low)
    (order,) = [line for line in low if line.lstrip().startswith("3 order")]
    assert "…" in order
    place = next(place for place, line in enumerate(tall) if line.lstrip().startswith("3 order"))
    assert "…" not in tall[place]
    assert tall[place + 1].strip() == "NULLS FIRST"


def test_a_line_is_broken_at_its_own_and_or_and_nowhere_else(table: Table) -> None:
    text = "keep grade = 'A and B' AND (length_mm BETWEEN 1 AND 5 OR NOT (grade = 'C' or grade IS NULL))"
    lines = tuple(bind_cut(Cut("", (Line(text),)), table))
    said = text_of(ListState(lines, (), "t.csv", table.rows, 0), 90)
    shown = [line.strip() for line in said.split("line 1 in full")[1].strip().splitlines()]
    assert shown == [
        "keep grade = 'A and B'", "AND (length_mm BETWEEN 1 AND 5", "OR NOT (grade = 'C'", "or grade IS NULL))",
    ]  # fmt: skip
