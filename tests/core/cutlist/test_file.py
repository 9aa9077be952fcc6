from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.cutlist.file import list_text, load_list, parse_list, relocated, save_list
from yardcut.core.cutlist.history import History
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError, SourceError, TargetError
from yardcut.core.language.syntax.source_lines import parse_sub_line, sub_line_text
from yardcut.core.outgoing import Outgoing
from yardcut.core.session import Session

LIST = """\
yardcut 1    -- the format

-- which oak?
source "yard_2031.csv"

cut "winter oak"
  drop    bay = 'ALL BAYS'   -- totals
  -- the good ones
  keep    grade IN ('A', 'B')
            AND (length_mm >= 2400
            -- larch is wanted at any length
            OR species = 'larch'
          )
  off keep moisture_pct <= 18

cut "for the kiln"
order   felled_on DESC

draw first 10
-- the end
"""


def test_a_list_is_read_with_its_cuts_and_lines() -> None:
    found = parse_list(LIST)
    assert found.files == ("yard_2031.csv",)
    assert [cut.name for cut in found.cuts] == ["winter oak", "for the kiln"]
    assert [line.verb for line in found.cuts[0].lines] == ["drop", "keep", "keep"]
    assert found.cuts[0].lines[2].is_off
    assert [line.place for line in found.cuts[1].lines] == [17, 19]


PIECES = st.sampled_from(
    ["  keep a = 1\n", "  off drop b -- why\n", "\n", "  -- note\n", "\tdraw first 3\n", "  order a,\n      b DESC\n",
     "  keep (a\n  )\n", "  columns a, b..c\r\n", "  save \"x.csv\"\n"]
)  # fmt: skip


@given(st.lists(PIECES, max_size=8), st.lists(PIECES, max_size=5), st.sampled_from(["", "-- end", "\n\n"]))
def test_what_nobody_touched_keeps_its_bytes(first: list[str], second: list[str], rest: str) -> None:
    text = f'yardcut 1\nsource "y.csv"\ncut "a"\n{"".join(first)}cut "b"\n{"".join(second)}{rest}'
    try:
        found = parse_list(text)
    except ListError:
        return  # a tab deeper than the line above continues it
    assert list_text(found) == text
    assert list_text(parse_list(list_text(found))) == text


def test_an_edit_changes_only_its_own_line(tmp_path: Path) -> None:
    path = tmp_path / "w.cut"
    path.write_text(LIST)
    session = Session.from_list(path)
    session.edits.rewrite(1, "keep grade = 'A'")
    session.edits.switch_line(2)
    session.edits.enter("draw first 7", 2)
    assert not session.is_saved
    session.save_list(path)
    assert session.is_saved
    changed = path.read_text()
    assert "  -- the good ones\n  keep grade = 'A'\n  keep moisture_pct <= 18\n  draw first 7\n" in changed
    assert changed.replace("  draw first 7\n", "").startswith(LIST.split("  keep    grade")[0])
    assert changed.endswith(LIST[LIST.index('\ncut "for the kiln"') :])


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("keep a = 1\n", "line 1, column 1: a list starts with the line: yardcut 1"),
        ("yardcut 2\n", "this list is of version 2 of the format, and this program reads version 1"),
        ("yardcut one\n", "a list starts with"),
        ("yardcut 1\n", "names no source"),
        ('yardcut 1\nsource "a.csv"\nsource "b.csv"\n', "line 3, column 1: a list has one source"),
        ('yardcut 1\nsource "a.csv"\ncut "x"\ncut "x"\n', 'line 4, column 1: two cuts are named "x"'),
        ('yardcut 1\nsource "a.csv"\ncut x\n', "cut takes a name in quotes"),
        ('yardcut 1\nsource "a.csv"\ncut "x"\n  keep a\n    AND b == 3\n', "line 5, column 12: = cannot stand here"),
        ('yardcut 1\nsource "a.csv"\nkeeep a\n', "line 3, column 1: keeep starts no line of a list"),
        ("yardcut 1\nsource a.csv\n", "source takes a file name in quotes"),
    ],
)
def test_errors_of_a_list_have_their_place(text: str, says: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_list(text)
    assert says in str(caught.value)


def test_further_sources_are_read_and_kept() -> None:
    text = (
        'yardcut 1\nsource "a.csv"\n  form header no\n\n-- where they come from\nsource "mills.csv", "m2.csv" AS mills\n'
        "  kind id text\nsource 'b.txt' AS b  -- asked\n\ndial n = 3\ncut \"c\"\n  bring name from mills by id\n"
    )
    found = parse_list(text)
    assert list_text(found) == text
    assert [(each.name, each.files, len(each.lines)) for each in found.further] == [
        ("mills", ("mills.csv", "m2.csv"), 1), ("b", ("b.txt",), 0),
    ]  # fmt: skip
    assert len(found.source_lines) == 1
    without = replace(found, further=tuple(replace(each, raw="") for each in found.further))
    again = parse_list(list_text(without))
    assert [(each.name, each.files, each.lines) for each in again.further] == [
        (each.name, each.files, each.lines) for each in found.further
    ]


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        ('source "a.csv"\nsource "b.csv"\n', "one source without a name"),
        ('source "a.csv" AS a\n', "the first source of a list has no name"),
        ('source "a.csv"\nsource "b.csv" AS b\nsource "c.csv" AS b\n', "two sources are named b"),
        ('source "a.csv"\nsource "b.csv" as the mills\n', "a plain word"),
        ('source "a.csv"\ndial n = 1\nsource "b.csv" AS b\n', "above the dials"),
    ],
)
def test_what_is_wrong_with_a_further_source_is_said(lines: str, said: str) -> None:
    with pytest.raises(ListError, match=said):
        parse_list("yardcut 1\n" + lines)


def test_a_list_saved_elsewhere_finds_its_second_tables(tmp_path: Path) -> None:
    text = (
        'yardcut 1\nsource "a.csv"\nsource "m.csv" AS mills\ncut "c"\n  keep x IN "asked.txt" AND y <> \'asked.txt\'\n'
        '  bring name from "sub/t.csv" by id\n  bring z from mills by id\n'
    )
    moved = relocated(parse_list(text), tmp_path, tmp_path / "lists")
    assert list_text(moved) == (
        'yardcut 1\nsource "../a.csv"\nsource "../m.csv" AS mills\ncut "c"\n  keep x IN "../asked.txt" AND y <> \'asked.txt\'\n'
        '  bring name from "../sub/t.csv" by id\n  bring z from mills by id\n'
    )


def test_several_files_and_sub_lines_are_read_and_kept() -> None:
    text = (
        'yardcut 1\nsource "a.csv",\n  "b*.csv"\n  form delimiter \';\' in "a.csv"  -- as it came\n'
        "  kind x date 'DD.MM.YYYY'\ncut \"c\"\n  keep x IS NULL\n"
    )
    found = parse_list(text)
    assert found.files == ("a.csv", "b*.csv")
    assert [sub_line_text(line) for line in found.source_lines] == [
        "form delimiter ';' in \"a.csv\"", "kind x date 'DD.MM.YYYY'"
    ]  # fmt: skip
    assert list_text(found) == text
    more = found.with_source_line(parse_sub_line("no value '-'"))
    assert parse_list(list_text(more)).source_lines == more.source_lines
    with pytest.raises(ListError, match="line 3, column"):
        parse_list("yardcut 1\nsource \"a.csv\"\n  form delimiter ';;'\n")


def test_files_that_are_no_list(tmp_path: Path) -> None:
    with pytest.raises(SourceError, match="there is no list"):
        load_list(tmp_path / "none.cut")
    (tmp_path / "bad.cut").write_bytes(b"\xff\xfe")
    with pytest.raises(SourceError, match="not UTF-8"):
        load_list(tmp_path / "bad.cut")


def test_a_list_saved_elsewhere_finds_its_source(tmp_path: Path) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    found = parse_list(LIST)
    written, moved = save_list(found, Outgoing(tmp_path / "b" / "w.cut"), tmp_path / "a")
    assert moved
    assert written.files == ("../a/yard_2031.csv",)
    again = load_list(tmp_path / "b" / "w.cut")
    assert again.files == ("../a/yard_2031.csv",)
    assert list_text(again) == LIST.replace('"yard_2031.csv"', '"../a/yard_2031.csv"')
    with pytest.raises(TargetError, match="no directory"):
        save_list(found, Outgoing(tmp_path / "none" / "w.cut"), tmp_path)


def test_a_new_list_has_a_head_and_parses() -> None:
    text = list_text(CutList(("yard.csv",), (), (Cut("", (Line("keep a = 1"), Line("draw first 3"))),)))
    assert text == 'yardcut 1\n\nsource "yard.csv"\n\ncut "slice"\n  keep a = 1\n  draw first 3\n'
    assert [line.text for line in parse_list(text).cuts[0].lines] == ["keep a = 1", "draw first 3"]


def test_new_lines_stand_before_closing_saves() -> None:
    cut = Cut("", tuple(map(Line, ["keep a", "save 'x.csv'", "save 'y.csv'"])))
    assert cut.place_for(-1, "keep") == 0
    assert cut.place_for(2, "keep") == 1
    assert cut.place_for(2, "save") == 3


def test_a_draw_by_chance_gets_a_seed_when_it_is_entered(tmp_path: Path) -> None:
    session = Session(tmp_path / "t.csv")
    session.edits.enter("draw random 5", -1)
    assert " seed " in session.cut.lines[0].text
    session.edits.enter("draw random 5 seed 7", 0)
    assert session.cut.lines[1].text == "draw random 5 seed 7"


def test_everything_can_be_undone_and_done_again(tmp_path: Path) -> None:
    session = Session(tmp_path / "t.csv")
    session.edits.enter("keep a", -1)
    session.edits.enter("keep b", 0)
    session.edits.move_line(1, -1)
    session.edits.switch_line(0)
    session.edits.delete_line(1)
    states = [["off keep b"], ["off keep b", "keep a"], ["keep b", "keep a"], ["keep a", "keep b"], ["keep a"], []]
    for state in states:
        assert [line.text for line in session.cut.lines] == state
        session.edits.undo()
    assert not session.edits.undo()
    for _ in states:
        session.edits.redo()
    assert [line.text for line in session.cut.lines] == states[0]


def test_a_new_edit_forgets_what_was_undone() -> None:
    history = History(0)
    history.push(1)
    history.push(2)
    history.undo()
    history.push(3)
    assert not history.redo()
    assert history.undo()
    assert history.now == 1
