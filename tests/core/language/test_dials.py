"""Dials: what stands in a line is what its dial holds, and a piece of an empty one is as if it were switched off."""

from __future__ import annotations

import itertools

import pytest

from helpers import WriteTable
from yardcut.core.cutlist.file import list_text, parse_list
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.dial_lines import dial_text, nudged, parse_dial, with_texts
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

HEADER = ["ticket", "species", "bay", "price", "felled"]
ROWS = [
    [1, "oak", "A", 5, "2031-03-01"], [2, "oak", "B", 6, "2031-03-02"], [3, "larch", "A", 7, "2031-03-03"],
    [4, "ash", None, 8, "2031-03-04"], [5, "oak", "A", 9, "2031-03-05"],
]  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(HEADER, ROWS)


def tickets(table: Table, dials: tuple[str, ...], *lines: str) -> list[str | None]:
    settings = tuple(map(parse_dial, dials))
    cut = Cut("", tuple(map(Line, lines)))
    results = list(Executor(LocalRunner(table)).run(cut, default_seed=1, dials=settings))
    assert len(results) == len(lines), "a line is wrong"
    frame = results[-1].frame
    return list(frame.page(0, frame.rows.count, (0,)).cells[0])


def error_of(table: Table, dials: tuple[str, ...], line: str) -> str:
    from yardcut.core.run.executing.bound_lines import bind_cut

    (bound,) = bind_cut(Cut("", (Line(line),)), table, default_seed=1, dials=tuple(map(parse_dial, dials)))
    assert bound.error is not None, line
    return str(bound.error)


@pytest.mark.parametrize(
    ("dials", "line", "left"),
    [
        (("dial bay = 'A'",), "keep bay = :bay", "1 3 5"),
        (("dial woods = 'oak', 'ash'",), "keep species IN (:woods)", "1 2 4 5"),
        (("dial woods = 'oak', 'ash'",), "keep species IN ('larch', :woods) AND price > 5", "2 3 4 5"),
        (("dial p = '7'",), "keep price >= :p", "3 4 5"),
        (("dial p = 7",), "keep price >= :p", "3 4 5"),
        (("dial p = -7",), "keep price >= :p", "1 2 3 4 5"),
        (("dial p = 7",), "keep price + 1 = :p + 1", "3"),
        (("dial day = '2031-03-03'",), "keep felled > :day", "4 5"),
        (("dial day = DATE '2031-03-03'",), "keep felled > :day", "4 5"),
        (("dial part = 'ar'",), "keep species CONTAINS :part", "3"),
        (("dial like = '%k'",), "keep species LIKE :like", "1 2 5"),
        (("dial by = column price",), "keep :by > 7", "4 5"),
        (("dial by = column price",), "order :by DESC", "5 4 3 2 1"),
        (("dial n = 2",), "draw first :n", "1 2"),
        (("dial n = 40",), "draw first :n percent", "1 2"),
        (("dial n = 1", "dial by = column price"), "draw top :n by :by per species", "5 3 4"),
        (("dial a = 2", "dial b = 3"), "draw rows :a to :b", "2 3"),
        (("dial k = 2", "dial a = 2"), "draw every :k from :a", "2 4"),
        # an empty dial: the piece is left out
        (("dial bay =",), "keep bay = :bay AND price > 6", "3 4 5"),
        (("dial bay =",), "keep bay = :bay OR price > 8", "5"),
        (("dial bay =",), "keep NOT (bay = :bay) AND price > 6", "3 4 5"),
        (("dial bay =",), "keep bay = :bay", "1 2 3 4 5"),
        (("dial bay =",), "drop bay = :bay", "1 2 3 4 5"),
        (("dial bay =",), "keep (bay = :bay) IS UNKNOWN AND price > 6", "3 4 5"),
        (("dial low =",), "keep price BETWEEN :low AND 6", "1 2"),
        (("dial high =",), "keep price BETWEEN 8 AND :high", "4 5"),
        (("dial high =",), "keep price NOT BETWEEN 8 AND :high", "1 2 3"),
        (("dial low =", "dial high ="), "keep price BETWEEN :low AND :high", "1 2 3 4 5"),
        (("dial more =",), "keep species IN ('larch', :more)", "3"),
        (("dial more =",), "keep species NOT IN (:more)", "1 2 3 4 5"),
        (("dial n =",), "draw first :n", "1 2 3 4 5"),
        (("dial n =",), "draw top :n by price", "1 2 3 4 5"),
        (("dial s = 3",), "draw random 5 seed :s", "1 2 3 4 5"),
        (("dial bay =",), "keep off (bay = :nobody) AND price > 8", "5"),
    ],
)
def test_what_a_dial_stands_for(table: Table, dials: tuple[str, ...], line: str, left: str) -> None:
    assert tickets(table, dials, line) == left.split()
    assert parse_statement(statement_text(parse_statement(line))) == parse_statement(line)


@pytest.mark.parametrize(
    ("dials", "line", "said"),
    [
        ((), "keep bay = :bay", "the list has no dial bay"),
        (("dial bays = 'A'",), "keep bay = :bay", "did you mean :bays"),
        (("dial bay = 'A', 'B'",), "keep bay = :bay", "holds 2 values"),
        (("dial bay =",), "make b = :bay", "is empty"),
        (("dial bay =",), "order :bay", "is empty"),
        (("dial bay = 'A'",), "keep price > :bay", "a number stands here"),
        (("dial bay = 'A'",), "columns :bay", "a column stands here"),
        (("dial by = column pricce",), "columns :by", "price"),
        (("dial n = 'many'",), "draw first :n", "a number stands here"),
        (("dial n = 2.5",), "draw first :n", "whole"),
        (("dial n = 1.5",), "draw rows 1 to :n", "whole"),
        (("dial n = 200",), "draw first :n percent", "100 percent"),
        (("dial n = 3",), "keep species CONTAINS :n", "a text stands here"),
    ],
)
def test_what_cannot_stand_there_is_said(table: Table, dials: tuple[str, ...], line: str, said: str) -> None:
    assert said in error_of(table, dials, line)


def test_every_form_of_a_condition_without_a_piece_is_as_with_it_off(table: Table) -> None:
    """Against the same line with the piece switched off: what an empty dial means by definition."""
    forms = ["{} AND price > 6", "{} OR price > 8", "NOT {}", "NOT ({} AND price > 6)", "({} OR price > 8) AND price < 9",
             "NOT (NOT {} OR price > 8)", "({} AND {}) OR price > 8", "({} OR price = 5) IS TRUE"]  # fmt: skip
    pieces = ["bay = :bay", "bay <> :bay", "bay IN (:bay)", "UPPER(bay) = :bay", "bay CONTAINS :bay", "price > :bay",
              "price + :bay > 3", "bay LIKE :bay", "bay STARTS WITH :bay", "bay IS DISTINCT FROM :bay"]  # fmt: skip
    for form, piece, verb in itertools.product(forms, pieces, ("keep", "drop")):
        empty = f"{verb} {form.replace('{}', piece)}"
        off = f"{verb} {form.replace('{}', 'off (price > 5)')}"
        assert tickets(table, ("dial bay =",), empty) == tickets(table, (), off), empty


def test_a_list_keeps_its_dials_and_their_comments() -> None:
    text = (
        'yardcut 1\n\nsource "a.csv"\n\n-- how many\ndial best = 12 from 4 to 40  -- tuned\n'
        "dial bay   =\ndial w = 'oak', 'it''s' from column species\n\ncut \"c\"\n  draw first :best\n"
    )
    found = parse_list(text)
    assert list_text(found) == text
    assert [dial_text(dial) for dial in found.dials] == [
        "dial best = 12 from 4 to 40", "dial bay =", "dial w = 'oak', 'it''s' from column species",
    ]  # fmt: skip
    changed = found.with_dial(nudged(found.dial("best"), 1))
    assert list_text(changed) == text.replace("= 12 from", "= 13 from").replace("40  --", "40 --")
    assert list_text(found.without_dial("bay")) == text.replace("dial bay   =\n", "")
    made = CutList(("a.csv",)).with_dial(parse_dial("dial n = 1"))
    assert parse_list(list_text(made)).dials == made.dials
    with pytest.raises(ListError, match="no dial x"):
        found.dial("x")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("dial a = 1\ndial a = 2", "two dials are named a"), ("dial a = 1, 'x'", "one kind"),
        ("dial a = 5 from 9 to 1", "from high to low"), ("dial a = 5 from 1 to 9 step 0", "moves nothing"),
        ("dial a = 'x' from 1 to 9", "holds a number"), ("dial a 5", "cannot stand in a dial"),
        ("dial = 5", "cannot stand in a dial"), ("dial a = date '2031-02-30'", "no day"),
        ("dial a = b", "cannot stand in a dial"), ("dial a = 'x", "cannot stand in a dial"),
    ],
)  # fmt: skip
def test_what_is_no_dial_is_said_with_its_place(text: str, said: str) -> None:
    with pytest.raises(ListError, match=said) as caught:
        parse_list(f'yardcut 1\nsource "a.csv"\n{text}\ncut "c"\n  keep x = 1\n', "l.cut")
    assert caught.value.place is not None
    assert caught.value.place.line in (3, 4)


def test_dials_stand_between_the_source_and_the_cuts() -> None:
    for text in ('dial a = 1\nsource "a.csv"\n', 'source "a.csv"\ncut "c"\n  keep x = 1\ndial a = 1\n'):
        with pytest.raises(ListError, match="dials stand"):
            parse_list(f"yardcut 1\n{text}")


@pytest.mark.parametrize(
    ("dial", "texts", "holds"),
    [
        ("dial n = 12", ("13",), "13"), ("dial n = 12", ("-1.5",), "-1.5"), ("dial n = 1 from 1 to 9", ("4",), "4"),
        ("dial w = 'oak'", ("12",), "'12'"), ("dial w = 'oak'", ("ash", "it's"), "'ash', 'it''s'"),
        ("dial w =", ("",), "empty"), ("dial w = 'oak'", ("",), "empty"), ("dial m = column a", ("b c",), '"b c"'),
        ("dial d = DATE '2031-03-01'", ("2031-04-01",), "DATE '2031-04-01'"), ("dial t = TRUE", ("false",), "FALSE"),
    ],
)  # fmt: skip
def test_what_a_command_line_sets(dial: str, texts: tuple[str, ...], holds: str) -> None:
    assert with_texts(parse_dial(dial), texts).said() == holds


@pytest.mark.parametrize(
    ("dial", "text"),
    [("dial n = 12", "many"), ("dial n = 12", "1, 2"), ("dial d = DATE '2031-03-01'", "x' from 1 to 2"),
     ("dial t = TRUE", "perhaps")],
)  # fmt: skip
def test_a_text_that_is_none_of_its_kind_is_refused(dial: str, text: str) -> None:
    with pytest.raises(ListError, match="is none"):
        with_texts(parse_dial(dial), (text,))


def test_nudging_keeps_to_the_ends_and_steps() -> None:
    assert [nudged(parse_dial("dial n = 39 from 4 to 40"), by).said() for by in (1, 5, -100)] == ["40", "40", "4"]
    assert nudged(parse_dial("dial n = 0.95"), -1).said() == "0.94"
    assert nudged(parse_dial("dial n = 1 from -5 to 5 step 2.5"), -1).said() == "-1.5"
    assert nudged(parse_dial("dial n = 'x'"), 1).said() == "'x'"


def test_no_mend_puts_a_value_in_the_place_of_a_dial(table: Table) -> None:
    from yardcut.core.run.executing.bound_lines import bind_cut
    from yardcut.core.run.hinting.line_hints import line_hints

    for dial, line in (
        ("dial x = 5", "keep species = :x"),
        ("dial x = column pricce", "keep :x > 5"),
        ("dial x = column pricce", "order :x"),
    ):
        (bound,) = bind_cut(Cut("", (Line(line),)), table, dials=(parse_dial(dial),))
        assert bound.error is not None
        assert bound.error.mend is None or bound.error.mend.text is None
    executor = Executor(LocalRunner(table))
    (result,) = executor.run(Cut("", (Line("keep species IN (:w)"),)), dials=(parse_dial("dial w = 'OAK', 'larch'"),))
    hints = line_hints(result, executor, CancelToken())
    assert any("OAK" in hint.says for hint in hints)
    assert not any(hint.mend for hint in hints)
