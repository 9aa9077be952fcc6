from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.errors import SourceError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.spec import DeclaredKind, FormLine, Selector, SourceSpec
from yardcut.core.values.kinds import Kind

NAMES = ["ticket", "bay", "moisture_d01", "moisture_d02", "grade"]
PATH = Path("dir/yard_2029.csv")


def spec(*lines: str) -> SourceSpec:
    return SourceSpec((str(PATH),), tuple(map(parse_sub_line, lines)))


@pytest.mark.parametrize(
    ("selector", "places"),
    [
        (Selector("bay"), [1]),
        (Selector("none"), []),
        (Selector(1), [0]),
        (Selector(-1), [4]),
        (Selector(9), []),
        (Selector("bay", "grade"), [1, 2, 3, 4]),
        (Selector("grade", "bay"), [1, 2, 3, 4]),
        (Selector(2, -2), [1, 2, 3]),
        (Selector("bay", "none"), []),
        (Selector("moisture_*", is_pattern=True), [2, 3]),
        (Selector("?ay", is_pattern=True), [1]),
        (Selector("[b]*", is_pattern=True), []),
    ],
)
def test_columns_are_selected_by_name_number_range_and_pattern(selector: Selector, places: list[int]) -> None:
    assert selector.places(NAMES) == places


def test_later_lines_win_part_by_part() -> None:
    found = spec("form delimiter ';' decimal ','", "form delimiter '|' in \"yard_2029.csv\"", 'form skip 2 in "x.csv"')
    assert found.form_of(PATH) == FormLine(None, delimiter="|", decimal=",")
    assert found.form_of(Path("x.csv")) == FormLine(None, delimiter=";", decimal=",", skip=2)
    kinds = spec("kind moisture_* number, ticket text", "kind moisture_d02 text").kinds(NAMES)
    assert kinds == {0: DeclaredKind(Kind.TEXT), 2: DeclaredKind(Kind.NUMBER), 3: DeclaredKind(Kind.TEXT)}
    missing = spec("no value 'a'", "no value 'b', 'c'", "no value '--' in moisture_*")
    assert missing.no_values(PATH) == ("b", "c")
    assert missing.no_values_in(PATH, NAMES) == {2: ("--",), 3: ("--",)}
    assert spec().no_values(PATH) is None
    assert spec("call bay place", "call #-1 quality").called(PATH, NAMES)[1::3] == ["place", "quality"]
    assert spec("only bay..grade").wanted(None, NAMES) == {1, 2, 3, 4}
    assert spec("only bay..grade").wanted(PATH, NAMES) is None
    assert spec('only grade in "yard_2029.csv"').wanted(PATH, NAMES) == {4}
    assert spec("table 'x'", "all tables").tables(PATH) == ()
    assert spec().tables(PATH) is None
    assert spec("cells 'A1'", "cells 'B2'").cells(PATH) == "B2"
    assert spec("query 'a'").query(PATH) == "a"
    assert spec("file column f").file_column == "f"
    assert spec('kind a text in "other.csv"').unmatched([PATH]) == ["other.csv"]


def test_files_and_patterns_are_each_stacked_once(tmp_path: Path) -> None:
    for name in ("b.csv", "a.csv", "c[1].csv"):
        (tmp_path / name).write_text("x\n1\n")
    found = SourceSpec(("c[1].csv", "*.csv", "a.csv"), (), tmp_path).paths()
    assert [path.name for path in found] == ["c[1].csv", "a.csv", "b.csv"]
    with pytest.raises(SourceError, match="no file matches"):
        SourceSpec(("x*.csv",), (), tmp_path).paths()
    assert SourceSpec(("gone.csv",), (), tmp_path).paths() == [tmp_path / "gone.csv"]


def test_a_source_has_a_short_name() -> None:
    assert SourceSpec.of("a/yard_2031.csv").label == "yard_2031.csv"
    assert SourceSpec(("a/one.csv", "two.csv", "three.csv")).label == "one.csv and 2 more"
    assert SourceSpec(("-",)).label == "standard input"
    assert SourceSpec(("yard_20*.csv",)).stem == "yard_20"
    assert SourceSpec(("x.tar.gz",)).stem == "x"


@given(st.lists(st.sampled_from(["no value 'a'", "only bay", "form skip 1", "kind bay text"]), max_size=4))
def test_what_the_sub_lines_say_marks_the_store(lines: list[str]) -> None:
    one, other = spec(*lines), spec(*lines)
    assert one.mark() == other.mark()
    assert (one.mark() == "") == (not lines)
    assert one.with_line(parse_sub_line("form skip 7")).mark() != one.mark()
