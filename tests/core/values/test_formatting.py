from __future__ import annotations

import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.filter_parts import Keep
from yardcut.core.values.formatting import format_number, literal, quote_name, quote_text
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import format_date, format_timestamp, parse_date, parse_timestamp

TEXTS = st.text(st.characters(exclude_categories=("Cs",)), max_size=30)


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_a_number_is_written_in_its_shortest_exact_form(value: float) -> None:
    text = format_number(value)
    assert float(text) == value
    assert not text.endswith(".0")
    assert len(text) <= len(repr(value))


@given(st.dates())
def test_a_day_is_written_and_read_as_the_standard_library_does(day: datetime.date) -> None:
    days = (day - datetime.date(1970, 1, 1)).days
    assert format_date(days) == day.isoformat()
    assert parse_date(day.isoformat()) == days


@given(st.datetimes())
def test_an_instant_is_written_and_read_as_the_standard_library_does(moment: datetime.datetime) -> None:
    since = moment - datetime.datetime(1970, 1, 1)
    microseconds = since // datetime.timedelta(microseconds=1)
    assert format_timestamp(microseconds) == moment.isoformat(sep=" ")
    assert parse_timestamp(moment.isoformat()) == microseconds
    assert parse_timestamp(moment.isoformat(sep=" ")) == microseconds


@pytest.mark.parametrize("text", ["2031-1-2", "31-01-02", "2031/01/02", "2031-01-02x", "x", "", "20310102"])
def test_other_forms_are_no_days(text: str) -> None:
    assert parse_date(text) is None
    assert parse_timestamp(text + " 10:00") is None


@pytest.mark.parametrize("text", ["2031-02-29", "2031-13-01", "2031-00-10", "0000-01-01"])
def test_days_that_do_not_exist_are_an_error(text: str) -> None:
    with pytest.raises(ValueError, match=r"day|month|year"):
        parse_date(text)


def test_a_fraction_of_a_second_is_shown_only_where_there_is_one() -> None:
    assert format_timestamp(parse_timestamp("2031-01-02 03:04") or 0) == "2031-01-02 03:04:00"
    assert format_timestamp(parse_timestamp("2031-01-02T03:04:05.5") or 0) == "2031-01-02 03:04:05.500000"


@given(TEXTS)
def test_a_quoted_text_is_read_back_by_the_grammar(text: str) -> None:
    body = parse_statement(f"keep a = {quote_text(text)}").body
    assert isinstance(body, Keep)
    assert isinstance(body.condition, t.Comparison)
    assert body.condition.right == t.Text(text)
    assert quote_text(text).isprintable()


@given(TEXTS.filter(bool))
def test_a_quoted_name_is_read_back_by_the_grammar(name: str) -> None:
    body = parse_statement(f"keep {quote_name(name)} IS NULL").body
    assert isinstance(body, Keep)
    assert body.condition == t.IsNull(t.Name(name))


@pytest.mark.parametrize(
    ("kind", "value", "text"),
    [
        (Kind.TEXT, "it's", "'it''s'"),
        (Kind.TEXT, "a\nb", "U&'a\\000Ab'"),
        (Kind.TEXT, "back\\slash\x07", "U&'back\\\\slash\\0007'"),
        (Kind.INTEGER, -5, "-5"),
        (Kind.NUMBER, 0.1, "0.1"),
        (Kind.NUMBER, 5.0, "5"),
        (Kind.BOOLEAN, True, "TRUE"),
        (Kind.DATE, 0, "DATE '1970-01-01'"),
        (Kind.TIMESTAMP, 1, "TIMESTAMP '1970-01-01 00:00:00.000001'"),
    ],
)
def test_literals_select_the_value(kind: Kind, value: object, text: str) -> None:
    assert literal(kind, value) == text  # type: ignore[arg-type]
