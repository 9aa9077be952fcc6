"""A saved list says the kinds it relies on; operations without an answer are counted."""

from __future__ import annotations

from pathlib import Path

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.kinds_used import agree
from yardcut.core.run.explaining.unanswered import unanswered
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.session import Session


def saved(tmp_path: Path, *lines: str, text: str = "") -> tuple[Session, str]:
    rows = "".join(f"{n:03}-31,{n},{n / 2},{n % 28 + 1:02}.03.2031,x{n % 3}\n" for n in range(1, 90))
    (tmp_path / "a.csv").write_text(text or f"ticket,boards,price,felled,shift\n{rows}")
    session = Session(tmp_path / "a.csv")
    session.open()
    for line in lines:
        session.edits.enter(line, len(session.cut.lines) - 1)
    session.save_list(tmp_path / "a.cut")
    return session, (tmp_path / "a.cut").read_text()


def test_kinds_of_columns_looked_at_are_written_and_of_no_others(tmp_path: Path) -> None:
    session, text = saved(
        tmp_path, "keep boards > 3 AND felled > '2031-03-02'", "make twice = price * 2", "columns ticket, shift, twice",
        'save "x.csv"',
    )  # fmt: skip
    assert "  kind boards integer, price number, felled date 'DD.MM.YYYY'\n" in text
    assert session.is_saved
    again = Session.from_list(tmp_path / "a.cut")
    again.open()
    assert again.executor is not None
    assert session.executor is not None
    counts = [[result.rows.count for result in each.executor.run(each.cut)] for each in (session, again)]  # type: ignore[union-attr]
    assert counts[0] == counts[1]
    assert session.table is not None
    assert agree(session.spec.lines, session.table)


def test_what_is_said_already_is_not_said_again_and_saving_is_no_edit(tmp_path: Path) -> None:
    session, first = saved(tmp_path, "keep boards > 3")
    session.save_list(tmp_path / "a.cut")
    assert (tmp_path / "a.cut").read_text() == first
    session.edits.enter("keep shift = 'x1'", 0)
    session.save_list(tmp_path / "a.cut")
    assert (tmp_path / "a.cut").read_text().count("kind ") == 2
    assert session.edits.undo()
    assert [line.text for line in session.cut.lines] == ["keep boards > 3"]
    assert session.edits.undo()
    assert not session.edits.undo()


def test_next_months_file_cannot_change_what_a_line_means(tmp_path: Path) -> None:
    _, text = saved(
        tmp_path, "keep ticket >= '050-31'", text="ticket,n\n" + "".join(f"{n:03}-31,1\n" for n in range(90))
    )
    assert "kind ticket text" in text
    (tmp_path / "a.csv").write_text("ticket,n\n" + "".join(f"{n},1\n" for n in range(100, 190)))
    again = Session.from_list(tmp_path / "a.cut")
    again.open()
    assert again.executor is not None
    (result,) = again.executor.run(again.cut)
    assert result.rows.count == len([n for n in range(100, 190) if str(n) >= "050-31"])


@pytest.mark.parametrize(
    ("line", "count", "operation"),
    [
        ("make m = a / b", 2, "a / b"),
        ("make m = a % b, w = ABS(b)", 2, "a % b"),
        ("make m = 1 + ABS(a / b)", 2, "a / b"),
        ("make m = CASE WHEN b > 0 THEN a / b ELSE 0 END", 0, ""),
        ("make m = COALESCE(a / b, 0)", 0, ""),
        ("keep a / b > 1", 2, "a / b"),
        ("order a / b", 2, "a / b"),
        ("draw top 2 by a / b", 2, "a / b"),
        ("make m = a * 9000000000000000000", 3, "a * 9000000000000000000"),
        ("make m = a + b", 0, ""),
        ("make m = SUM OF (a, b)", 0, ""),
        ("keep a = 1", 0, ""),
    ],
)
def test_operations_without_an_answer_are_counted(table_of: WriteTable, line: str, count: int, operation: str) -> None:
    table = table_of(["a", "b"], [[4, 0], [6, 3], [None, 0], [5, 0], [1, None]])
    (result,) = run_lines(table, line)
    said = unanswered(result, LocalRunner(table), CancelToken())
    assert said == ((f"{count} rows have no answer to {operation}, and so no value",) if count else ())


def test_of_made_columns_the_line_that_made_them_tells(table_of: WriteTable) -> None:
    table = table_of(["a", "b"], [[4, 0], [6, 3]])
    made, kept = run_lines(table, "make m = a / b", "keep m > 1")
    runner = LocalRunner(table)
    assert unanswered(made, runner, CancelToken()) == ("1 row has no answer to a / b, and so no value",)
    assert unanswered(kept, runner, CancelToken()) == ()
