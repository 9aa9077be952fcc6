"""No line, however long, deep or large its numbers, ends in anything but a tree that can be worked with or a sentence."""

import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from thoroughness import IS_LONG, examples
from yardcut.core.errors import ListError
from yardcut.core.language.helping.completing_lines import Frequent, complete
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.measures import MOST_CHARACTERS
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

NINES = "9" * 5001

REFUSED = {
    "keep n < 1e999999999": "a number lies between",
    "keep n < 1e-401": "a number lies between",
    "keep n < 1e" + NINES: "at most 400 digits",
    "draw chance 1e-999999999": "a number lies between",
    "draw chance 1 in 1e999999999": "a number lies between",
    "draw first 1" + "0" * 18: "no table has so many rows",
    "draw every " + "9" * 19: "no table has so many rows",
    "draw every 2 from " + "9" * 400: "no table has so many rows",
    "draw rows 1 to " + "9" * 400: "no table has so many rows",
    "draw chance 1 in " + "9" * 400: "no table has so many rows",
    "keep n < " + NINES: "at most 400 digits",
    "keep n < 0." + NINES: "at most 400 digits",
    "columns #" + NINES: "at most 400 digits",
    "order #" + NINES: "at most 400 digits",
    "draw random 3 seed " + NINES: "at most 400 digits",
    f"keep w LIKE '{'a' * MOST_CHARACTERS}'": f"at most {MOST_CHARACTERS:,} characters",
    "keep n < " + "- " * 2000 + "5": "more than 150 levels deep",
    "keep " + "(" * 2000 + "n < 1" + ")" * 2000: "more than 150 levels deep",
    "keep " + "not " * 2000 + "n < 1": "more than 150 levels deep",
    "make x = n" + " + 1" * 2000: "more than 150 levels deep",
    "make x = n" + " * (1" * 2000 + ")" * 2000: "more than 150 levels deep",
    "make x = " + "abs(" * 2000 + "n" + ")" * 2000: "more than 150 levels deep",
}

TAKEN = [
    *(["keep n > 0" + " or n < 9" * 2000] if IS_LONG else []),
    "keep n < 1e400", "keep n < -1e-400", "draw chance 1e-399 seed 7", "draw first " + "9" * 18, "draw every " + "9" * 18,
    "draw first " + "0" * 300 + "7", "draw random 3 seed " + "9" * 400, "keep n < " + "9" * 400,
    "keep n < " + "- " * 100 + "5", "keep " + "not " * 100 + "n < 1", "make x = n" + " + 1" * 100,
    "keep n > 0" + " and n < 9" * 2000, f"keep w LIKE '{'a%' * 20_000}'",
    "keep n in (" + ", ".join(map(str, range(9000))) + ")", "make x = 9e307 * 10, y = 1e400 + n, z = n % 1e-400",
    "keep w LIKE_REGEX '" + "(a|b)*" * 300 + "'",
]  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["n", "w"], [[1, "oak"], [None, None], [2**60, "ash"], [-3, "a" * 5000]])


@pytest.mark.parametrize("text", REFUSED, ids=lambda text: text[:30])
def test_too_much_is_a_sentence_at_once(text: str) -> None:
    began = time.thread_time()
    with pytest.raises(ListError) as refused:
        parse_statement(text)
    assert REFUSED[text] in str(refused.value)
    assert len(refused.value.message) < 200
    assert time.thread_time() - began < 10


@pytest.mark.few(6)
@pytest.mark.parametrize("text", TAKEN, ids=lambda text: text[:30])
def test_what_is_taken_can_be_worked_with(table: Table, text: str) -> None:
    statement = parse_statement(text)
    assert parse_statement(statement_text(statement)) == statement
    began = time.thread_time()
    assert run_lines(table, text)[-1].rows.count <= 4
    assert time.thread_time() - began < 20


def test_numbers_of_the_source_have_their_measure_too() -> None:
    for text in ("form skip " + NINES, "form header " + NINES, "kind #" + NINES + " text"):
        with pytest.raises(ListError, match="at most 400 digits"):
            parse_sub_line(text)


FORMS = [
    "keep n < {}", "draw first {}", "draw chance {}", "draw every {} from {}", "draw random {} percent",
    "draw random 2 seed {}", "columns #{}", "order #{}", "make x = n * {}", "draw rows {} to {}",
    "keep n between -{} and {}", "draw chance 1 in {}",
]  # fmt: skip


@settings(max_examples=examples(120), deadline=None)
@given(
    st.sampled_from(FORMS),
    st.from_regex(r"\A([0-9]{1,25}|[0-9]{390,410})(\.[0-9]{1,5})?([eE][+-]?[0-9]{1,5})?\Z"),
)
def test_any_number_anywhere_is_taken_or_refused(form: str, number: str) -> None:
    try:
        statement = parse_statement(form.replace("{}", number))
    except ListError:
        return
    assert parse_statement(statement_text(statement)) == statement


@pytest.mark.parametrize(
    "line",
    [
        r"keep a = U&'\D800'", r"order U&'\D800'", r"draw random 1 per U&'\DFFF' seed 1", r"make x = U&'\DE00\D83D'",
        r"make x = U&'\+FFFFFF'", r'columns a AS U&"\D800"', r'keep U&"\D800" = 1', r'save U&"\D800.csv"',
        "keep a = '\udcff'", "keep \ud800 = 1", r'make U&"\DFFF" = 1', r"keep a IN ('x', U&'\D800')",
    ],
)  # fmt: skip
def test_half_a_character_is_refused_wherever_it_stands(line: str) -> None:
    with pytest.raises(ListError, match="character"):
        parse_statement(line)
    scope = Scope.of_source([("a", Kind.TEXT)])
    for end in range(len(line)):
        complete(line[:end], scope, lambda column: Frequent())


def test_two_halves_are_one_character() -> None:
    assert statement_text(parse_statement(r"keep a = U&'\D83C\DF32'")) == statement_text(
        parse_statement("keep a = '🌲'")
    )
