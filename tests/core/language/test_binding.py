import pytest

from helpers import YARD_SCOPE
from yardcut.core.errors import ListError
from yardcut.core.language.lines import bind
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_named, pieces_of
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.columns import BoundColumns
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.values.kinds import Kind


@pytest.mark.parametrize(
    ("text", "mend"),
    [
        ("keep specis = 'oak'", "keep species = 'oak'"),
        ("keep length_mm = NULL", "keep length_mm IS NULL"),
        ("keep length_mm <> NULL", "keep length_mm IS NOT NULL"),
        ("keep length_mm > '2400'", "keep length_mm > 2400"),
        ("keep species = 4", "keep species = '4'"),
        ("keep reserved = 'true'", "keep reserved = TRUE"),
        ("keep felled_on > 2031-03-01", "keep felled_on > '2031-03-01'"),
        ("keep price-per-m3 > 3", "keep price_per_m3 > 3"),
    ],
)
def test_the_likely_meaning_is_offered(text: str, mend: str) -> None:
    with pytest.raises(ListError) as caught:
        bind_line(text, YARD_SCOPE)
    assert caught.value.mend is not None
    assert caught.value.mend.text == mend


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("keep species", "species is a text, not a condition"),
        ("keep length_mm AND reserved", "length_mm is an integer, not a condition"),
        ("keep species LIKE 'a' AND length_mm LIKE 'x'", "LIKE is for texts"),
        ("keep species IN ('a', NULL)", "NULL inside IN is never found"),
        ("keep felled_on = '2031-02-30'", "there is no day or time 2031-02-30"),
        ("keep felled_on = 'soon'", "soon is not a date"),
        ("keep felled_on + 3 = felled_on", "a date \\+ an integer has no answer"),
        ("keep species < 'a' IGNORING CASE", "not a bound"),
        ("keep -species = 1", "has no sign"),
        ("keep #99 = 1", "there is no column #99: there are 12"),
        ("keep zzzz = 1", "there is no column zzzz"),
        ("keep species LIKE_REGEX '('", "cannot be read"),
        ("keep species LIKE 'a!' ESCAPE '!'", "ends in the middle of an escape"),
        ("columns nothing*", "no column matches nothing"),
        ("columns felled_on..species", "from right to left"),
        ("columns species, grade AS species", "two columns of the result are named species"),
        ("columns all without *", "no column is left"),
    ],
)
def test_a_line_that_cannot_be_meant_says_why(text: str, says: str) -> None:
    with pytest.raises(ListError, match=says):
        bind_line(text, YARD_SCOPE)


def test_the_place_of_an_error_covers_the_word() -> None:
    text = "keep length_mm > 3 AND specis = 'oak'"
    with pytest.raises(ListError) as caught:
        bind_line(text, YARD_SCOPE)
    assert text[caught.value.start : caught.value.end] == "specis"


def test_a_name_in_other_capitals_is_taken_with_a_hint() -> None:
    bound = bind_line("keep SPECIES = 'oak'", YARD_SCOPE)
    assert bound is not None
    assert bound.hints == ("SPECIES is taken to mean species",)
    with pytest.raises(ListError):
        bind_line("keep \"SPECIES\" = 'oak'", YARD_SCOPE)


def test_a_range_from_high_to_low_carries_a_hint() -> None:
    bound = bind_line("keep length_mm BETWEEN 5 AND 2", YARD_SCOPE)
    assert bound is not None
    assert "never true" in bound.hints[0]


def test_pieces_that_are_off_leave_no_gap() -> None:
    bound = bind_line("keep off (reserved) AND NOT off (length_mm > 1)", YARD_SCOPE)
    assert bound is not None
    assert bound.body == BoundFilter(None, drops=False)


def shown(text: str, scope: object = YARD_SCOPE) -> list[str]:
    bound = bind(parse_statement(text), text, scope, Fixed(0))  # type: ignore[arg-type]
    assert isinstance(bound.body, BoundColumns)
    return [column.name for column in bound.body.shown]


def test_columns_by_name_range_number_pattern_and_kind() -> None:
    assert shown("columns grade, ticket") == ["grade", "ticket"]
    assert shown("columns ticket..grade, #-1") == ["ticket", "species", "grade", "invoice no"]
    assert shown("columns moisture_d*, /^felled/") == ["moisture_d01", "moisture_d02", "felled_on"]
    assert shown("columns kind boolean, kind date") == ["reserved", "felled_on"]
    assert shown("columns #2..#3") == ["species", "grade"]
    assert len(shown("columns all without moisture_d0?, ticket")) == 9


def test_a_column_named_twice_stands_once_unless_renamed() -> None:
    assert shown("columns grade, all")[:3] == ["grade", "ticket", "species"]
    assert shown("columns grade, grade AS quality") == ["grade", "quality"]
    assert shown("columns off grade, ticket") == ["ticket"]


def test_a_hidden_column_can_still_be_named_and_brought_back() -> None:
    text = "columns ticket, species AS wood"
    after = bind(parse_statement(text), text, YARD_SCOPE, Fixed(0)).scope
    assert shown("columns all", after) == ["ticket", "wood"]
    assert shown("columns wood, grade", after) == ["wood", "grade"]
    bound = bind_line("keep grade = 'A' AND wood = 'oak' AND species = 'oak'", after)
    assert bound is not None
    assert [len(columns_named(piece)) for piece in pieces_of(bound.body.condition)] == [1, 1, 1]  # type: ignore[union-attr]


def test_a_text_beside_a_day_or_an_instant_is_read_as_one() -> None:
    bound = bind_line("keep kiln_in >= '2031-03-01' AND felled_on < '2031-03-01 12:00'", YARD_SCOPE)
    assert bound is not None
    first, second = pieces_of(bound.body.condition)  # type: ignore[union-attr]
    assert isinstance(first.test, b.Compare)
    assert isinstance(second.test, b.Compare)
    assert first.test.right.kind is Kind.TIMESTAMP
    assert second.test.right.kind is Kind.TIMESTAMP


@pytest.mark.parametrize(
    "value",
    [
        "AVG(SUM(price_per_m3))",
        "SUM(price_per_m3 + AVG(price_per_m3))",
        "MIN(COALESCE(price_per_m3, MAX(price_per_m3)))",
    ],
)
def test_a_value_of_all_rows_does_not_stand_within_another(value: str) -> None:
    with pytest.raises(ListError, match="looks at all rows and cannot stand within"):
        bind_line(f"keep price_per_m3 > {value}", YARD_SCOPE)
