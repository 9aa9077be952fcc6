"""A cut begun from another: its rows, its order, its made columns, with nothing hidden or renamed."""

from __future__ import annotations

from pathlib import Path

import pytest

from helpers import WriteTable
from yardcut.core.cutlist.edited_cuts import with_copy, with_cut_from, with_cut_named, with_empty_cut, without_cut
from yardcut.core.cutlist.file import list_text, parse_list
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.row_reasons import reason
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.session import Session
from yardcut.core.table.stored_table import Table
from yardcut.core.unattended import run_cut
from yardcut.core.writers.targets import RunOptions

ROWS = [["a", 5, "oak"], ["b", 3, "ash"], ["c", 9, "oak"], ["d", None, "elm"], ["e", 7, "oak"]]
"""The n add up to 24, those of oak to 21."""


def cut(name: str, *lines: str) -> Cut:
    return Cut(name, tuple(map(Line, lines)))


def run(table: Table, cuts: list[Cut]) -> list[LineResult]:
    return list(Executor(LocalRunner(table)).run(cuts[-1], earlier=cuts[:-1]))


def shown(result: LineResult) -> list[tuple[str | None, ...]]:
    frame = result.frame
    return list(zip(*frame.page(0, frame.rows.count, range(len(frame.columns))).cells, strict=True))


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["ticket", "n", "wood"], ROWS)


FIRST = cut("first", "keep n IS NOT NULL", "make share = n / SUM(n)", "order n DESC",
            "columns wood AS species, share", "keep species = 'oak'", 'save "never.csv"')  # fmt: skip


def test_rows_order_and_made_columns_come_over_and_nothing_is_hidden(table: Table) -> None:
    first, kept = run(table, [FIRST, cut("second", 'from "first"', "keep n < 9")])
    assert [column.name for column in first.shown] == ["ticket", "n", "wood", "share"]
    assert shown(first) == [("c", "9", "oak", "0.375"), ("e", "7", "oak", str(7 / 24)), ("a", "5", "oak", str(5 / 24))]
    assert [row[0] for row in shown(kept)] == ["e", "a"]
    assert first.taken == 2
    assert reason(first, 3) == "not in the cut first"


def test_a_cut_of_a_cut_and_values_of_all_rows_keep_apart(table: Table) -> None:
    second = cut("second", 'from "first"', "make part = n / SUM(n), most = MAX(n)")
    third = cut("third", 'from "second"', "drop n = MAX(n)", "make rest = n / SUM(n)")
    result = run(table, [FIRST, second, third])[-1]
    assert shown(result) == [
        ("e", "7", "oak", str(7 / 24), str(7 / 21), "9", str(7 / 12)),
        ("a", "5", "oak", str(5 / 24), str(5 / 21), "9", str(5 / 12)),
    ]


@pytest.mark.parametrize(
    ("cuts", "says"),
    [
        ([cut("x", 'from "y"')], "no earlier cut"),
        ([cut("x", 'from "x"')], "no earlier cut"),
        ([cut("y", "keep zz = 1"), cut("x", 'from "y"')], "is wrong"),
        ([FIRST, cut("x", "keep n > 1", 'from "first"')], "first line only"),
    ],
)
def test_what_cannot_be_begun_with_says_why(table: Table, cuts: list[Cut], says: str) -> None:
    errors = [line.error for line in bind_cut(cuts[-1], table, earlier=cuts[:-1]) if line.error is not None]
    assert says in str(errors[0])


def test_a_list_with_it_is_read_written_and_run(table: Table, tmp_path: Path) -> None:
    text = (
        'yardcut 1\n\nsource "table.csv"\n\ncut "oak"\n  keep wood = \'oak\'\n  save "oak.csv"\n\n'
        'cut "few"\n  from "oak"\n  keep n > 5\n  save "few.csv"\n'
    )
    path = tmp_path / "two.cut"
    path.write_text(text)
    session = Session.from_list(path)
    session.open()
    report = run_cut(session, 1, RunOptions(None, False, tmp_path), CancelToken(), Progress())
    assert [line.rows_out for line in report.lines] == [3, 2, 2]
    assert (tmp_path / "few.csv").read_text() == "ticket,n,wood\nc,9,oak\ne,7,oak\n"
    assert not (tmp_path / "oak.csv").exists()
    assert list_text(session.cut_list) == text


def test_cuts_are_added_named_and_taken_out() -> None:
    one = CutList(("a.csv",), (), (cut("", "keep a = 1"),))
    two = with_cut_from(one, 0)
    assert [each.name for each in two.cuts] == ["slice", "from slice"]
    assert two.cuts[1].lines[0].text == 'from "slice"'
    named = with_cut_named(two, 0, 'winter "oak"')
    assert named.cuts[1].lines[0].text == 'from "winter ""oak"""'
    again = parse_list(list_text(named))
    assert [each.name for each in again.cuts] == ['winter "oak"', "from slice"]
    with pytest.raises(ListError, match="begins with"):
        without_cut(named, 0)
    assert [each.name for each in without_cut(named, 1).cuts] == ['winter "oak"']
    copied = with_empty_cut(with_copy(named, 0), 0)
    assert [each.name for each in copied.cuts] == ['winter "oak"', "new cut", 'winter "oak" copy', "from slice"]
    assert copied.cuts[2].lines == named.cuts[0].lines
    for name in ("", "from slice"):
        with pytest.raises(ListError):
            with_cut_named(two, 0, name)
    with pytest.raises(ListError, match="at least one"):
        without_cut(one, 0)
    read = parse_list('yardcut 1\nsource "a.csv"\n-- why\ncut "x"\n  keep a = 1\n')
    assert '-- why\ncut "y"\n' in list_text(with_cut_named(read, 0, "y"))
