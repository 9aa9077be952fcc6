from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.errors import ListError
from yardcut.core.language.syntax.source_lines import FORMS, WORDS, is_sub_line, parse_sub_line, sub_line_text
from yardcut.core.sources.spec import (
    CallLine,
    CellsLine,
    DeclaredKind,
    FileColumnLine,
    FormLine,
    KeyLine,
    KindLine,
    NoValueLine,
    OnlyLine,
    QueryLine,
    Selector,
    SubLine,
    TableLine,
)
from yardcut.core.values.kinds import Kind

TEXTS = st.text(st.characters(exclude_categories=("Cs",)), min_size=1, max_size=12)
MARKS = st.sampled_from([";", ",", "\t", "|", " ", "'", '"', "."])
FILES = st.none() | st.sampled_from(["yard_2029.csv", 'odd "name".csv', "größe.csv"])
NAMES = st.sampled_from(["ticket", "moisture_pct", "a b", 'quo"ted', "in", "date", "x.y", "träger"])
ENDS = NAMES | st.integers(1, 40) | st.integers(-9, -1)


@st.composite
def selectors(draw: st.DrawFn) -> Selector:
    if draw(st.booleans()):
        return Selector(draw(st.sampled_from(["moisture_*", "*", "d?te", "*_on"])), is_pattern=True)
    return Selector(draw(ENDS), draw(st.none() | ENDS))


@st.composite
def declared_kinds(draw: st.DrawFn) -> DeclaredKind:
    kind = draw(st.sampled_from(list(Kind)))
    patterns: tuple[str, ...] = ()
    if kind is Kind.BOOLEAN and draw(st.booleans()):
        patterns = draw(st.sampled_from([("J", "N"), ("yes", "no"), ("it's", "not")]))
    elif kind is Kind.DATE:
        patterns = draw(st.sampled_from([(), ("DD.MM.YYYY",), ("YYYYMMDD",), ("serial",)]))
    elif kind is Kind.TIMESTAMP:
        patterns = draw(st.sampled_from([(), ("unix",), ("unix ms",), ("DD/MM/YY HH:MI",)]))
    return DeclaredKind(kind, patterns)


@st.composite
def sub_lines(draw: st.DrawFn) -> SubLine:
    file = draw(FILES)
    match draw(st.integers(0, 9)):
        case 0:
            parts = draw(
                st.fixed_dictionaries(
                    {},
                    optional={
                        "delimiter": MARKS, "decimal": MARKS, "thousands": MARKS | st.just(""), "quote": MARKS,
                        "comment": st.sampled_from(["#", ";", ""]), "encoding": st.sampled_from(["utf-8", "cp1252"]),
                        "skip": st.integers(0, 99), "header": st.integers(0, 9),
                    },
                ).filter(bool)
            )  # fmt: skip
            return FormLine(file, **parts)
        case 1:
            texts = tuple(draw(st.lists(TEXTS | st.just(""), min_size=1, max_size=4)))
            where = draw(st.none() | selectors().filter(lambda found: "." not in str(found.first)))
            return NoValueLine(None, texts, where) if where else NoValueLine(draw(st.none() | st.just("a.csv")), texts)
        case 2:
            items = draw(st.lists(st.tuples(selectors(), declared_kinds()), min_size=1, max_size=4))
            return KindLine(file, tuple(items))
        case 3:
            return CallLine(file, draw(selectors()), draw(NAMES))
        case 4:
            return OnlyLine(file, tuple(draw(st.lists(selectors(), min_size=1, max_size=4))))
        case 5:
            return TableLine(file, tuple(draw(st.lists(TEXTS, max_size=3))))
        case 6:
            return CellsLine(file, draw(st.sampled_from(["B4", "A1:C9"])))
        case 7:
            return QueryLine(file, "select * from \"packs\" where grade = 'A'")
        case 8:
            return KeyLine(file, tuple(draw(st.lists(NAMES, min_size=1, max_size=3))))
        case _:
            return FileColumnLine(None, draw(NAMES))


@given(sub_lines())
def test_a_sub_line_printed_and_parsed_again_is_the_same(line: SubLine) -> None:
    assert parse_sub_line(sub_line_text(line)) == line


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("FORM Delimiter ';' HEADER no", FormLine(None, delimiter=";", header=0)),
        ("form delimiter '\\t' header 2 skip 3", FormLine(None, delimiter="\t", skip=3, header=2)),
        ("no value '', 'NA', '?'", NoValueLine(None, ("", "NA", "?"))),
        ("no value '--' in moisture_d07", NoValueLine(None, ("--",), Selector("moisture_d07"))),
        ("no value '--' in \"yard.csv\"", NoValueLine("yard.csv", ("--",))),
        ("only #1, #-1, a..c, *_mm", OnlyLine(None, (Selector(1), Selector(-1), Selector("a", "c"),
                                                     Selector("*_mm", is_pattern=True)))),
        ("all tables", TableLine(None, ())),
        ('KEY ticket, "a b"', KeyLine(None, ("ticket", "a b"))),
        ("file column from_file  -- which one", FileColumnLine(None, "from_file")),
        ('call "Holzart" species in "yard_2029.csv"', CallLine("yard_2029.csv", Selector("Holzart"), "species")),
    ],
)  # fmt: skip
def test_sub_lines_as_people_write_them(text: str, line: SubLine) -> None:
    assert parse_sub_line(text) == line


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("form delimiter ';;'", "delimiter takes one character"),
        ("form", "for example: form delimiter"),
        ("form header 12", "nine rows at most"),
        ("kind a boolean 'J'", "two different texts"),
        ("kind a boolean 'J', 'J'", "two different texts"),
        ("kind a integer 'x'", "takes no pattern"),
        ("kind a date 'DD.MM'", "needs a year"),
        ("kind a date 'DD.DD.YYYY'", "twice"),
        ("kind a colour", "for example: kind"),
        ("kind a text, 'J'", "belongs to no kind"),
        ("only", "the end of the line"),
        ("call a", "for example: call"),
    ],
)
def test_a_wrong_sub_line_says_why(text: str, says: str) -> None:
    with pytest.raises(ListError) as caught:
        parse_sub_line(text)
    assert says in str(caught.value)
    assert 0 <= caught.value.start <= caught.value.end <= len(text)


@given(st.text(max_size=40))
def test_no_text_breaks_the_parser_of_sub_lines(text: str) -> None:
    try:
        parse_sub_line(text)
    except ListError as error:
        assert str(error)


def test_what_is_a_sub_line_is_known_by_its_first_word() -> None:
    assert set(FORMS) == set(WORDS)
    assert is_sub_line("  Kind a text")
    assert not is_sub_line("keep kind = 1")
    assert not is_sub_line("")


@pytest.mark.parametrize("line", ["form delimiter '§'", "form quote '“'", "form decimal '٫'"])
def test_marks_of_several_bytes_are_refused_by_name(line: str) -> None:
    with pytest.raises(ListError, match=f"{line.split()[1]} takes a character of ASCII"):
        parse_sub_line(line)
