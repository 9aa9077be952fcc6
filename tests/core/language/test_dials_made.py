"""Dials made of what stands in a line: with the dial in its place the line does what it did."""

from __future__ import annotations

import pytest

from yardcut.core.errors import ListError
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning.dials_put_in import put_in_condition, put_in_line
from yardcut.core.language.syntax.dial_lines import dial_text, parse_dial
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.turning.dials_made import key_dial, number_dial, part_dials
from yardcut.core.language.verbs.filter_parts import Keep
from yardcut.core.language.verbs.order import Order

PIECES = {
    "species = 'oak'": ("species = :species", "dial species = 'oak' from column species"),
    "'oak' = species": ("'oak' = species", ""),
    "price > 300": ("price > :price", "dial price = 300"),
    "price - 2 >= -3.50": ("price - 2 >= :value", "dial value = -3.50"),
    "species IN ('oak', 'ash')": ("species IN (:species)", "dial species = 'oak', 'ash' from column species"),
    "NOT_A in (1, 2)": ("", ""),
    "species LIKE 'o%'": ("species LIKE :species", "dial species = 'o%'"),
    "species CONTAINS 'o'": ("species CONTAINS :species", "dial species = 'o'"),
    "price BETWEEN 3 AND 9": ("price BETWEEN :price_from AND :price_to", "dial price_from = 3;dial price_to = 9"),
    "felled_on < DATE '2031-03-01'": ("felled_on < :felled_on", "dial felled_on = DATE '2031-03-01'"),
    "\"odd name\" = 3": ("\"odd name\" = :odd_name", "dial odd_name = 3"),
}  # fmt: skip


@pytest.mark.parametrize("piece", [piece for piece, (made, dial) in PIECES.items() if dial])
def test_a_piece_becomes_a_dial_and_means_what_it_meant(piece: str) -> None:
    written, dials = PIECES[piece]
    body = parse_statement(f"keep {piece}").body
    assert isinstance(body, Keep)
    made, found = part_dials(body.condition, ())
    assert expression_text(made) == written
    assert ";".join(map(dial_text, found)) == dials
    assert [parse_dial(dial_text(dial)) for dial in found] == list(found)
    assert expression_text(put_in_condition(made, found)) == expression_text(body.condition)


@pytest.mark.parametrize(
    "piece", ["price > boards", "price IS NULL", "price > 3 AND boards > 2", "felled_on = CURRENT_DATE"]
)
def test_a_piece_without_a_value_makes_none(piece: str) -> None:
    body = parse_statement(f"keep {piece}").body
    assert isinstance(body, Keep)
    with pytest.raises(ListError, match="a dial is made of a value"):
        part_dials(body.condition, ())


@pytest.mark.parametrize(
    ("line", "written"),
    [
        ("draw top 12 by volume per species", "draw top :rows by volume per species"),
        ("draw random 30 seed 7", "draw random :rows seed 7"),
        ("draw every 5 from 2", "draw every :rows from 2"),
        ("keep price > 12.50", "keep price > :number"),
        ("make half = price / 2", "make half = price / :number"),
    ],
)
def test_the_number_of_a_line_becomes_a_dial(line: str, written: str) -> None:
    made = number_dial(line, ())
    assert made.text == written
    put, _ = put_in_line(parse_statement(made.text), [made.dial])
    assert put is not None
    assert statement_text(put) == statement_text(parse_statement(line))
    taken = number_dial(line, [made.dial.name])
    assert taken.dial.name == f"{made.dial.name}_2"


@pytest.mark.parametrize("line", ["order species", "draw random 12% seed 3", "keep species = '3'"])
def test_where_no_dial_can_stand_none_is_made(line: str) -> None:
    try:
        made = number_dial(line, ())
    except ListError:
        return
    put, _ = put_in_line(parse_statement(made.text), [made.dial])
    assert put is not None
    assert statement_text(put) == statement_text(parse_statement(line))


def test_a_key_becomes_a_dial_of_its_column() -> None:
    body = parse_statement("order price DESC, UPPER(species)").body
    assert isinstance(body, Order)
    key, dial = key_dial(body.keys[0], ["key"])
    assert dial_text(dial) == "dial key_2 = column price"
    assert key.descending
    with pytest.raises(ListError, match="worked out"):
        key_dial(body.keys[1], ())
