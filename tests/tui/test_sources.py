from __future__ import annotations

import os
from pathlib import Path

from yardcut.core.language.helping.completing_lines import complete_source_line
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.file_watch import FileWatch
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.cards.files.source import said
from yardcut.tui.cards.files.source_suggestions import suggestions
from yardcut.tui.desk.column_looks import Looks
from yardcut.tui.desk.desk import Desk
from yardcut.tui.desk.reread_differences import differences
from yardcut.tui.desk.trials import Draft, Trial, try_line, wrong_with
from yardcut.tui.main.prompting.said import said_of
from yardcut.tui.opened_with import Opening


def written(path: Path, text: str) -> SourceSpec:
    path.write_text(text)
    return SourceSpec.of(path)


def card(spec: SourceSpec) -> str:
    return "".join(text for text, _ in said(open_table(spec)))


def test_the_card_says_what_was_read_dropped_and_set_aside(tmp_path: Path) -> None:
    rows = "".join(f"{row},w\n" for row in range(2000))
    text = card(written(tmp_path / "a.csv", f"# by [hand]\nn,w\n{rows}odd,w\n\n1,2,3\nn,w\n"))
    assert text.startswith(
        "2,001 rows × 2 columns\na.csv  2,001 rows\n  comma between cells, utf-8, comments begin with #"
    )
    assert "dropped: 1 comment, 1 blank row, 1 row with too many cells, 1 repeated header" in text
    assert "n integer  1: odd ×1" in text
    assert "a.csv, line 2,005  too many cells  1,2,3" in text
    assert "[hand]" in text


def test_the_card_tells_how_files_differ(tmp_path: Path) -> None:
    written(tmp_path / "a.csv", "x,y\n1,2\n")
    written(tmp_path / "b.csv", "x,z\n1,2\n")
    (tmp_path / "c.csv").write_bytes(b"")
    text = card(SourceSpec(("[abc].csv",), (), tmp_path))
    assert "y may be z under another name" in text
    assert "! left out c.csv" in text


def test_what_differs_between_files_can_be_settled_by_a_line(tmp_path: Path) -> None:
    written(tmp_path / "a.csv", "boards,nominal size,price\n" + "1,x,5\n" * 30)
    written(tmp_path / "b.csv", "boards,size_class,price\n" + "1,x,much\n" * 30)
    lines = suggestions(open_table(spec := SourceSpec(("a.csv", "b.csv"), (), tmp_path)), spec)
    assert 'call size_class "nominal size" in "b.csv"' in lines
    assert "kind price integer" in lines
    assert "only boards, price" in lines
    settled = open_table(spec.with_line(parse_sub_line('call size_class "nominal size" in "b.csv"')))
    assert [column.name for column in settled.columns] == ["boards", "nominal size", "price"]
    assert settled.columns[1].info.missing == 0


def test_lines_to_begin_with_all_parse_and_start_from_the_guess(tmp_path: Path) -> None:
    spec = written(tmp_path / "a.tsv", "a b\tc\n1\tx\n").with_line(parse_sub_line("kind c text"))
    lines = suggestions(open_table(spec), spec)
    assert lines[0] == "kind c text"
    assert "form delimiter '\\t'" in lines
    assert "form header yes" in lines
    for line in lines:
        parse_sub_line(line)


def test_a_sub_line_is_tried_before_it_is_entered(tmp_path: Path) -> None:
    spec = written(tmp_path / "a.csv", "n;w\n1;x\n2;y\n")
    session = Session(spec)
    session.open()
    desk = Desk(session)

    def attempt(text: str) -> Trial:
        looks = Looks(desk.now.executor.runner)
        return try_line(desk.now, Draft(text, -1, None, 1), looks, lambda trial: None, CancelToken(), Progress())

    trial = attempt("kind w integer")
    assert trial.hints == ("w: 2 of 2 values do not fit integer: x ×1, y ×1",)
    assert "it is read again" in said_of(trial).said
    trial = attempt("form header no")
    assert trial.preview is not None
    assert trial.preview.names == ["column_1", "column_2"]
    assert trial.preview.rows[0] == ["n", "w"]
    assert wrong_with(desk.now, Draft("form delimiter ';;'", -1, None, 1)) is not None
    assert attempt("kind none text").error is not None
    desk.edits.add_source_line(parse_sub_line("kind w integer"))
    assert desk.now.spec.lines == (parse_sub_line("kind w integer"),)
    assert desk.edits.undo()
    assert desk.now.spec == spec
    assert [option.text for option in complete_source_line("kind n", [("n", "integer")]).options] == ["n", "number"]


def test_an_opening_looks_only_at_delimited_text(tmp_path: Path) -> None:
    assert Opening(written(tmp_path / "a.csv", "a\n1\n")).preview is not None
    assert Opening(written(tmp_path / "a.json", '[{"a": 1}]')).preview is None


def test_a_watch_tells_what_changed(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    watch = FileWatch()
    assert watch.changed() == ""
    watch.begin(written(path, "a\n1\n"))
    assert watch.changed() == ""
    path.write_text("a\n1\n2\n")
    assert watch.changed() == "a.csv has grown by 2 bytes since it was read"
    path.write_text("b\n")
    assert watch.changed() == "a.csv has changed since it was read"
    path.unlink()
    assert watch.changed() == "a.csv is gone"
    path.write_text("a\n1\n")
    os.utime(path, (5, 5))
    assert watch.changed() == "a.csv has changed since it was read"
    watch.begin(SourceSpec(("*.csv",), (), tmp_path))
    (tmp_path / "b.csv").write_text("a\n")
    assert watch.changed() == "b.csv is a new file of the source"


def test_what_is_different_after_reading_again(tmp_path: Path) -> None:
    before = open_table(written(tmp_path / "a.csv", "a,b\n1,x\n"))
    now = open_table(written(tmp_path / "b.csv", "a,c\nw,1\nv,2\n"))
    assert differences(before, now) == "read again: 2 rows, 1 more · new: c · gone: b · a is text now"
    assert differences(now, now) == "read again: 2 rows"
    assert differences(now, before).startswith("read again: 1 row, 1 fewer")
