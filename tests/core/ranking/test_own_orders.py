"""Orders of texts without regard to case, by the numbers in them, and in a sequence of one's own: against plain Python."""

from __future__ import annotations

import random
import re
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable, ids_left, run_lines
from yardcut.core.errors import ListError
from yardcut.core.expressions.computing.text_functions import as_numbers
from yardcut.core.expressions.testing.folding import simple_fold
from yardcut.core.sources.store import builders

WORDS = ["oak", "Oak", "OAK", "ash", "Élan", "élan", "bay 2", "bay 10", "Bay 9", "bay 09", "bay", "x9y10", "x9y9", None]
SHIFTS = ["late", "early", "night", "spare", None]


def _rows() -> list[list[Any]]:
    chance = random.Random(11)
    return [[chance.choice(WORDS), chance.choice(SHIFTS), chance.randrange(5)] for _ in range(400)]


def _parts(text: str) -> list[tuple[int, int, str]]:
    """Cut a text into numbers and single characters; a number stands where its first digit would."""
    found = []
    for piece in re.findall("[0-9]+|[^0-9]", text):
        found.append((ord("1"), int(piece), "") if piece[0].isdigit() else (ord(piece), -1, piece))
    return found


_KEYS = {
    "word IGNORING CASE": lambda row: simple_fold(row[0]),
    "word NUMBER AWARE": lambda row: _parts(row[0]),
    "word IGNORING CASE NUMBER AWARE": lambda row: _parts(simple_fold(row[0])),
    "shift IN SEQUENCE ('early', 'late', 'night')": lambda row: ["early", "late", "night", "spare"].index(row[1]),
    "shift IN SEQUENCE ('NIGHT') IGNORING CASE": lambda row: row[1] != "night",
    "number IN SEQUENCE (3, 1)": lambda row: {3: 0, 1: 1}.get(row[2], 2),
}


@pytest.mark.few(8)
@pytest.mark.parametrize("key", list(_KEYS))
@pytest.mark.parametrize("way", ["", " DESC"])
@pytest.mark.parametrize("plain", [False, True])
def test_rows_come_in_the_order_asked_for(
    table_of: WriteTable, monkeypatch: pytest.MonkeyPatch, key: str, way: str, plain: bool
) -> None:
    if plain:
        monkeypatch.setattr(builders, "MOST_WORDS", 3)
    rows = _rows()
    table = table_of(["word", "shift", "number"], rows)
    column = ["word", "shift", "number"].index(key.split()[0])
    name, _, rest = key.partition(" ")
    with_value = [place for place, row in enumerate(rows) if row[column] is not None]
    ordered = sorted(with_value, key=lambda place: _KEYS[key](rows[place]), reverse=bool(way))
    if way:  # stable, downwards too
        ordered = sorted(with_value, key=lambda place: _KEYS[key](rows[place]))
        groups: dict[Any, list[int]] = {}
        for place in ordered:
            groups.setdefault(str(_KEYS[key](rows[place])), []).append(place)
        ordered = [place for group in reversed(groups.values()) for place in group]
    missing = [place for place, row in enumerate(rows) if row[column] is None]
    assert ids_left(table, f"order {name}{way} {rest}") == ordered + missing


@given(st.lists(st.text("ab019 ", max_size=6), max_size=30))
def test_texts_with_numbers_compare_by_the_numbers(texts: list[str]) -> None:
    ours = sorted(texts, key=as_numbers)
    assert [_parts(text) for text in ours] == [_parts(text) for text in sorted(texts, key=_parts)]


def test_numbers_of_forty_digits_compare_by_value() -> None:
    numbers = [str(10**40 + 1), "9" * 40, "0" * 50 + "7", "8", "9" * 9, "1" * 8]
    assert sorted(numbers, key=as_numbers) == sorted(numbers, key=int)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("order number NUMBER AWARE", "NUMBER AWARE is for texts, and number is an integer"),
        ("order number IGNORING CASE", "IGNORING CASE is for texts"),
        ("order word NUMBER AWARE IN SEQUENCE ('a')", "IN SEQUENCE says the order by itself"),
        ("order shift IN SEQUENCE (word)", "IN SEQUENCE takes values"),
        ("order shift IN SEQUENCE (NULL)", "IN SEQUENCE takes values"),
        ("order number IN SEQUENCE ('a')", "cannot be compared"),
    ],
)
def test_what_is_no_order_says_why(table_of: WriteTable, line: str, says: str) -> None:
    from yardcut.core.expressions.frame import source_scope
    from yardcut.core.run.executing.bound_lines import bind_line

    table = table_of(["word", "shift", "number"], _rows())
    with pytest.raises(ListError, match=re.escape(says)):
        bind_line(line, source_scope(table))


def test_a_draw_ranks_by_a_sequence_too(table_of: WriteTable) -> None:
    rows = _rows()
    table = table_of(["word", "shift", "number"], rows)
    last = run_lines(table, "draw top 5 by number, shift IN SEQUENCE ('night', 'late')")[-1]
    found = [rows[int(row)] for row in last.rows.ids(0, 5)]
    best = sorted(
        (row for row in rows), key=lambda row: (-row[2], {"night": 0, "late": 1}.get(row[1], 2 if row[1] else 3))
    )
    assert [(row[2], row[1] in ("night", "late")) for row in found] == [
        (row[2], row[1] in ("night", "late")) for row in best[:5]
    ]
