"""Conditions about chosen values, written and read back; values that differ only in capitals or blanks."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.language.helping.twins import make_alike, twins
from yardcut.core.language.helping.value_sets import condition_text, values_of
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.filter_parts import Keep
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

_texts = st.text(max_size=6).filter(lambda text: not any(0xD800 <= ord(char) < 0xE000 for char in text))
_BY_KIND = {
    Kind.TEXT: _texts,
    Kind.INTEGER: st.integers(-(2**63), 2**63 - 1).map(str),
    Kind.NUMBER: st.floats(allow_nan=False, allow_infinity=False).map(
        lambda value: formatter(Kind.NUMBER)(value + 0.0)
    ),
    Kind.DATE: st.dates().map(str),
    Kind.BOOLEAN: st.sampled_from(["true", "false"]),
}


@given(st.data(), st.sampled_from(list(_BY_KIND)), st.sampled_from(["species", "Max Temp (C)", "null"]))
def test_chosen_values_come_back_from_their_line(data: st.DataObject, kind: Kind, name: str) -> None:
    chosen = data.draw(st.sets(_BY_KIND[kind] | st.none(), min_size=1, max_size=6))
    body = parse_statement(f"keep {condition_text(name, kind, chosen)}").body
    assert isinstance(body, Keep)
    assert values_of(body.condition, name, kind) == chosen
    assert values_of(body.condition, "another", kind) is None


@pytest.mark.parametrize(
    "line",
    ["keep a <> 'x'", "keep a NOT IN ('x')", "keep a = 'x' AND a = 'y'", "keep a = 'x' IGNORING CASE", "keep a = b"],
)
def test_other_conditions_are_no_choice_of_values(line: str) -> None:
    body = parse_statement(line).body
    assert isinstance(body, Keep)
    assert not values_of(body.condition, "a", Kind.INTEGER)


def test_values_alike_but_for_capitals_and_blanks_are_found() -> None:
    found = twins([("oak", 9), ("Oak", 2), ("oak ", 1), ("ash", 4), ("elm", 1), ("elm ", 3)])
    assert found == [(("oak", 9), ("Oak", 2), ("oak ", 1)), (("elm ", 3), ("elm", 1))]
    assert make_alike("species", found) == "make species = LOWER(TRIM(species))"
    assert make_alike("species", found[1:]) == "make species = TRIM(species)"
    assert make_alike("the grade", [(("A", 5), ("a", 1))]) == 'make "the grade" = UPPER(TRIM("the grade"))'
    assert twins([("oak", 1), ("ash", 1)]) == []
