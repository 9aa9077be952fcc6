"""Conditions and orders against the standard library's sqlite3, on random rows."""

from __future__ import annotations

import csv
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import ids_left
from thoroughness import examples
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.store import builders
from yardcut.core.table.stored_table import Table

WORDS = ["oak", "Oak", "oak ", "ash", "élan", "end shake", "a%b", "a_b", "🌲", "", "zz\nz", "oaken"]
DAYS = ["2031-03-01", "2031-03-02", "2030-12-31", "1999-01-01"]
ROWS = 400


def make_rows() -> list[list[Any]]:
    """Return the same pseudo-random rows every time: small value sets, so that comparisons often hit."""
    import random

    chance = random.Random(2031)

    def some(values: list[Any], missing: float = 0.15) -> Any:
        return None if chance.random() < missing else chance.choice(values)

    return [
        [
            some([*WORDS[:-3], "oaken"]),
            some([*(f"text number {number} é" for number in range(300)), "oak", "zz\nz"]),
            some([-3, 0, 1, 2, 5, 2**53 + 1, 2**53, -(2**62)]),
            some([-1.5, 0.0, 0.1, 2.0, 2.5, 9007199254740992.0, 1e300]),
            some(DAYS),
            some([True, False]),
            some(list(range(40)), 0.0),
        ]
        for _ in range(ROWS)
    ]


COLUMNS = ["word", "long", "whole", "real", "day", "flag", "small"]
DATA = make_rows()


@pytest.fixture(scope="module", params=["codes", "plain"])
def pair(
    request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[Table, sqlite3.Connection]]:
    """Return the rows as a table of ours and as a table of sqlite, texts as codes and as plain bytes."""
    path: Path = tmp_path_factory.mktemp("sqlite") / "rows.csv"
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(COLUMNS)
        for row in DATA:
            writer.writerow(
                ["" if cell is None else str(cell).lower() if isinstance(cell, bool) else cell for cell in row]
            )
    connection = sqlite3.connect(":memory:", check_same_thread=False)
    connection.execute("PRAGMA case_sensitive_like = ON")
    connection.execute(
        "CREATE TABLE t (id INTEGER, word TEXT, long TEXT, whole INTEGER, real REAL, day TEXT, flag INTEGER, small INTEGER)"
    )
    connection.executemany(
        "INSERT INTO t VALUES (?,?,?,?,?,?,?,?)", [(place, *(cell for cell in row)) for place, row in enumerate(DATA)]
    )
    with pytest.MonkeyPatch.context() as patch:
        if request.param == "plain":
            patch.setattr(builders, "MOST_WORDS", 3)
        table = open_table(path)
    assert [column.info.storage for column in table.columns][:2] == [request.param] * 2
    yield table, connection
    connection.close()


def name(column: str) -> t.Name:
    return t.Name(column)


texts = st.sampled_from([*WORDS, "o", "text number 7", "number 1", "k"]).map(t.Text)
integers = st.sampled_from(["0", "1", "2", "5", str(2**53), str(2**53 + 1), "40"]).map(t.Number)
decimals = st.sampled_from(["0.1", "2.5", "1.99", "2.0"]).map(t.Number)
numbers = integers | decimals | integers.map(t.Negated)
numeric = st.sampled_from(["whole", "real", "small"]).map(name)
small = st.sampled_from(["small"]).map(name)
text_columns = st.sampled_from(["word", "long"]).map(name)
operators = st.sampled_from(["=", "<>", "<", "<=", ">", ">="])
flags = st.booleans()
sums = st.builds(
    t.Arithmetic, st.sampled_from(["+", "-", "*"]), small, integers.filter(lambda n: len(n.written) < 3) | small
)
pieces = (
    st.builds(t.Comparison, operators, numeric | sums, numbers)
    | st.builds(t.Comparison, operators, numbers, numeric)
    | st.builds(t.Comparison, operators, numeric, numeric)
    | st.builds(t.Comparison, operators, text_columns, texts)
    | st.builds(t.Comparison, operators, text_columns, text_columns)
    | st.builds(t.Comparison, operators, st.just(name("day")), st.sampled_from(DAYS).map(t.Text))
    | st.builds(t.Between, numeric, numbers, numbers, st.just(False), flags)
    | st.builds(t.In, numeric, st.lists(numbers, min_size=1, max_size=4).map(tuple), flags)
    | st.builds(t.In, text_columns, st.lists(texts, min_size=1, max_size=12).map(tuple), flags)
    | st.builds(t.Like, text_columns, st.sampled_from(["o%", "%k", "%a%", "o_k", "_ak%", "%", "oak", "%é", "%number 1_ %"]).map(t.Text), st.none(), flags)
    | st.builds(t.IsNull, st.sampled_from(COLUMNS).map(name), flags)
    | st.just(name("flag"))
)  # fmt: skip
conditions = st.recursive(
    pieces,
    lambda inner: (
        st.builds(t.Not, inner)
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: t.And(tuple(items)))
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: t.Or(tuple(items)))
    ),
    max_leaves=6,
)


@given(conditions, st.booleans())
@settings(max_examples=examples(450), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_a_condition_keeps_and_drops_what_sqlite_says(
    pair: tuple[Table, sqlite3.Connection], condition: t.Expression, drops: bool
) -> None:
    table, connection = pair
    text = expression_text(condition)
    # sqlite has no U&'…' and takes a line feed in a text as it is
    plain = text.replace("U&'", "'").replace("\\000A", "\n")
    true = {row for (row,) in connection.execute(f"SELECT id FROM t WHERE {plain}")}
    expected = [row for row in range(ROWS) if (row in true) is not drops]
    assert ids_left(table, f"{'drop' if drops else 'keep'} {text}") == expected


@pytest.mark.parametrize("test", ["CONTAINS", "STARTS WITH", "ENDS WITH"])
@pytest.mark.parametrize("column", ["word", "long"])
@pytest.mark.parametrize("part", ["oak", "o", "é", "number 1", " ", "\\000A", "zz", "9"])
def test_parts_of_texts_are_found_as_python_finds_them(
    pair: tuple[Table, sqlite3.Connection], test: str, column: str, part: str
) -> None:
    table, _ = pair
    place = COLUMNS.index(column)
    text = part.replace("\\000A", "\n")
    method = {"CONTAINS": str.__contains__, "STARTS WITH": str.startswith, "ENDS WITH": str.endswith}[test]
    expected = [row for row, cells in enumerate(DATA) if cells[place] is not None and method(cells[place], text)]
    assert ids_left(table, f"keep {column} {test} U&'{part}'") == expected


keys = st.lists(
    st.tuples(st.sampled_from(["word", "long", "whole", "real", "day", "flag", "small"]), flags, flags),
    min_size=1, max_size=4, unique_by=lambda key: key[0],
)  # fmt: skip


@given(keys)
@settings(max_examples=examples(150), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_an_order_is_the_one_sqlite_makes(
    pair: tuple[Table, sqlite3.Connection], keys: list[tuple[str, bool, bool]]
) -> None:
    table, connection = pair
    said = ", ".join(
        f"{column} {'DESC' if down else 'ASC'} NULLS {'FIRST' if first else 'LAST'}" for column, down, first in keys
    )
    expected = [row for (row,) in connection.execute(f"SELECT id FROM t ORDER BY {said}, id")]
    assert ids_left(table, f"order {said}") == expected
    expected = [row for (row,) in connection.execute(f"SELECT id FROM t WHERE small < 20 ORDER BY {said}, id")]
    assert ids_left(table, "keep small < 20", f"order {said}") == expected
    # a second order keeps the first where its own keys tie
    expected = [row for (row,) in connection.execute(f"SELECT id FROM t ORDER BY flag NULLS LAST, {said}, id")]
    assert ids_left(table, f"order {said}", "order flag") == expected
