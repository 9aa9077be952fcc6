"""A cut as one SQL statement: run on sqlite3, and on PostgreSQL where it is there, it gives the same rows."""

from __future__ import annotations

import csv
import random
import sqlite3
from collections.abc import Iterator
from typing import Any

import pytest

from postgres_server import PostgresServer, a_server
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sql.statement import as_statement
from yardcut.core.table.stored_table import Table

COLUMNS = {"id": "integer", "word": "text", "long": "text", "whole": "integer", "real": "real", "day": "date",
           "flag": "boolean", "group": "integer"}  # fmt: skip
WORDS = ["oak", "Oak", "oak ", "ash", "élan", "end shake", "a%b", "a_b", "it's", "oaken", "[x]"]
DAYS = ["2031-03-01", "2031-03-02", "2030-12-31", "1999-02-28", "2031-01-31"]


def make_rows(count: int = 300) -> list[list[Any]]:
    chance = random.Random(7)

    def some(values: list[Any], missing: float = 0.15) -> Any:
        return None if chance.random() < missing else chance.choice(values)

    return [
        [number, some(WORDS), some([f"text {n} é" for n in range(40)]), some([-7, -3, 0, 1, 2, 5, 12]),
         some([-1.5, 0.0, 0.1, 2.0, 2.5, 1e30]), some(DAYS), some([True, False]), some(list(range(6)), 0.05)]
        for number in range(count)
    ]  # fmt: skip


ROWS = make_rows()


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path = tmp_path_factory.mktemp("sql") / "rows.csv"
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows(
            [
                ["" if cell is None else str(cell).lower() if isinstance(cell, bool) else cell for cell in row]
                for row in ROWS
            ]
        )
    return open_table(path)


class Sqlite:
    dialect = "sqlite"

    def __init__(self) -> None:
        self._connection = sqlite3.connect(":memory:", check_same_thread=False)
        columns = ", ".join(f'"{name}" {kind}' for name, kind in COLUMNS.items())
        self._connection.execute(f"CREATE TABLE rows ({columns})")
        self._connection.executemany("INSERT INTO rows VALUES (?,?,?,?,?,?,?,?)", ROWS)

    def rows(self, statement: str) -> list[list[Any]]:
        return [list(row) for row in self._connection.execute(statement)]

    def close(self) -> None:
        self._connection.close()


class Postgres:
    """A table of the rows on a server of its own."""

    dialect = "postgresql"

    def __init__(self, server: PostgresServer) -> None:
        self._server = server
        kinds = {"real": "double precision", "integer": "bigint"}
        columns = ", ".join(f'"{name}" {kinds.get(kind, kind)}' for name, kind in COLUMNS.items())
        self.rows(f"CREATE TABLE rows ({columns})")
        values = ", ".join("(" + ", ".join(map(_literal, row)) + ")" for row in ROWS)
        self.rows(f"INSERT INTO rows VALUES {values}")

    def rows(self, statement: str) -> list[list[Any]]:
        return self._server.rows(statement)


def _literal(cell: Any) -> str:
    if cell is None:
        return "NULL"
    return str(cell) if isinstance(cell, bool | int | float) else "'" + str(cell).replace("'", "''") + "'"


@pytest.fixture(scope="module", params=["sqlite", "postgresql"])
def database(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Sqlite | Postgres]:
    if request.param == "sqlite":
        database = Sqlite()
        yield database
        database.close()
        return
    with a_server() as server:
        yield Postgres(server)


def ours(table: Table, lines: tuple[str, ...]) -> list[list[str | None]]:
    results = list(Executor(LocalRunner(table)).run(Cut("", tuple(map(Line, lines)))))
    assert len(results) == len(lines), "a line is wrong"
    frame = results[-1].frame
    page = frame.page(0, frame.rows.count, range(len(frame.columns)))
    return [list(row) for row in zip(*page.cells, strict=True)] if page.cells else []


def theirs(table: Table, database: Sqlite | Postgres, lines: tuple[str, ...]) -> list[list[str | None]]:
    bound = bind_cut(Cut("", tuple(map(Line, lines))), table)
    assert not [line.error for line in bound if line.error], lines
    statement = as_statement(bound, table, "rows", database.dialect)
    kinds = [column.kind.value for column in bound[-1].scope.shown]
    return [[_cell(cell, kind) for cell, kind in zip(row, kinds, strict=True)] for row in database.rows(statement)]


def _cell(cell: Any, kind: str) -> str | None:
    """Write what a database gives as our table shows it."""
    if cell is None or cell == "\u2205":
        return None
    if kind == "boolean":
        return {"1": "true", "0": "false", "t": "true", "f": "false"}[str(cell)]
    if kind == "number":
        text = repr(float(cell) + 0.0)  # a -0 is 0
        return text.removesuffix(".0")
    return str(cell)


CUTS = [
    ("keep whole > 1 AND NOT (word = 'oak' OR flag)", "order id"),
    ("drop whole > 1 OR word IN ('oak', 'it''s')", "order id"),
    ("keep real >= 0.1 AND real <> 2.5", "order real DESC, id"),
    ("keep real + whole > 2 AND whole % 2 = 1", "make r = real + whole, m = whole % 5, q = whole / 2, n = -whole", "order id"),
    ("make q = whole / whole, z = real / (whole - 1)", "order id"),
    ("keep word LIKE 'o%' OR word LIKE 'a!_b' ESCAPE '!' OR word LIKE '[x]'", "order id"),
    ("keep word NOT LIKE '%a%'", "order id"),
    ("keep word CONTAINS '%' OR long CONTAINS 'xt 3' OR word STARTS WITH 'oa' OR word ENDS WITH 'ake'", "order id"),
    ("keep NOT (word CONTAINS '')", "order id"),
    ("keep word < 'b' OR word BETWEEN 'end' AND 'oak'", "order word DESC NULLS FIRST, id"),
    ("keep whole BETWEEN SYMMETRIC 5 AND 1 AND real NOT BETWEEN 0 AND 2", "order id"),
    ("keep whole IS DISTINCT FROM 1 AND word IS NOT DISTINCT FROM long", "order id"),
    ("keep word IS NOT DISTINCT FROM word", "order id"),
    ("keep (flag AND whole > 0) IS UNKNOWN OR (flag OR whole > 2) IS NOT FALSE", "order id"),
    ("keep flag", "order flag, id"),
    ("keep day >= '2031-03-01' OR day = '1999-02-28'", "make n = day - MIN(day), m = EXTRACT(MONTH FROM day), w = EXTRACT(WEEKDAY FROM day), q = EXTRACT(QUARTER FROM day), later = day + INTERVAL '40' DAY", "order day DESC, id"),
    ("keep real > AVG(real) / 1e29 OR whole = MAX(whole)", "order id"),
    ("keep whole > 0", "keep real < AVG(whole)", "make c = COUNT(*), s = SUM(whole), w = MIN(word)", "order id"),
    ("make size = CASE WHEN whole > 2 THEN 'big' WHEN whole IS NULL THEN NULL ELSE word END", "order id"),
    ("make c = COALESCE(word, long, 'none'), n = NULLIF(whole, 5), g = GREATEST(whole, 2), l = LEAST(whole, 1)", "order id"),
    ("make t = TRIM(word), u = TRIM(LEADING 'o' FROM word), n = CHAR_LENGTH(long), s = SUBSTRING(word FROM 2 FOR 3), p = POSITION('k' IN word), j = word || '-' || long", "order id"),
    ("make a = ABS(whole), i = CAST(real / 1e29 AS integer), f = FLOOR(whole), t = CAST(whole AS text), d = CAST(day AS text)", "keep i IS NOT NULL", "order id"),
    ("keep ANY OF (whole, real) > 2", "order id"), ("keep ALL OF (whole, real) < 2", "order id"),
    ("drop ANY OF (word, long) CONTAINS 'oak' OR ANY OF (word, long) IS NULL", "order id"),
    ("make s = SUM OF (whole, group), m = MAX OF (whole, group), a = AVG OF (whole, group), c = COUNT OF (whole, real)", "order id"),
    ("order group NULLS FIRST, real DESC, id", "draw first 17"), ("order real, id", "draw last 10 percent"),
    ("order id DESC", "draw first 2 per group"), ("order id", "draw rows 11 to 20"), ("order id", "draw every 7 from 3"),
    ("order id", "draw top 9 by real"), ("order id", "draw bottom 9 by whole, real"), ("draw top 3 by whole with ties", "order id"),
    ("draw bottom 2 by real per group, flag with ties", "order id"), ("order id", "draw top 9 by real remainder"),
    ("order id", "draw first 25 percent per group remainder"),
    ("order word IN SEQUENCE ('oak', 'ash'), id DESC", "columns id, word AS \"the \"\"wood\"\"\", real"),
    ("columns id, whole AS word, word AS old", "keep word > 1", "order word, id"),
    ("make whole = whole * 2", "keep whole > 4", "make whole = whole + 1", "order whole, id"),
    ("keep off (whole > 1)", "order id"),
    ("tally COUNT(*), SUM(whole), COUNT(DISTINCT word) AS d, MIN(word), MAX(real) per group", "order group"),
    ("keep whole > 0", "tally COUNT(*) FILTER (WHERE flag) AS f, MAX(whole) - MIN(whole) AS g"),
    ("tally COUNT(*) AS n, MAX(id) AS m per word along group IN SEQUENCE (1, 2)", "keep n_1 > 0", "make t = n_1 + n_2", "order word"),
    ("tally MAX(id) AS m per EXTRACT(MONTH FROM day) AS month", "draw top 2 by m", "columns m, month"),
]  # fmt: skip


@pytest.mark.few(24)
@pytest.mark.parametrize("lines", CUTS, ids=lambda lines: " | ".join(lines)[:60])
def test_the_same_rows(table: Table, database: Sqlite | Postgres, lines: tuple[str, ...]) -> None:
    assert theirs(table, database, lines) == ours(table, lines)


def test_random_cuts(table: Table, database: Sqlite | Postgres) -> None:
    chance = random.Random(2031)
    tests = ["whole > 1", "real <= 2.0", "word = 'oak'", "flag", "day < '2031-03-02'", "word CONTAINS 'a'", "group IN (1, 2)",
             "whole IS NULL", "real > AVG(real) / 1e30", "ALL OF (whole, group) >= 0", "long ENDS WITH '1 é'"]  # fmt: skip

    def condition(depth: int) -> str:
        if depth == 0 or chance.random() < 0.3:
            return chance.choice(tests)
        one, other = condition(depth - 1), condition(depth - 1)
        form = chance.choice(["({0}) AND ({1})", "({0}) OR ({1})", "NOT ({0})", "({0}) IS NOT TRUE AND ({1})"])
        return form.format(one, other)

    for _ in range(60 if isinstance(database, Sqlite) else 15):
        lines = [f"{chance.choice(['keep', 'drop'])} {condition(2)}" for _ in range(chance.randint(1, 3))]
        if chance.random() < 0.5:
            lines += [
                "order real DESC, id",
                chance.choice(["draw first 40", "draw top 20 by whole", "draw every 3", "draw last 2 per group"]),
            ]
        cut = (*lines, "order id")
        assert theirs(table, database, cut) == ours(table, cut), cut


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        (("draw random 5 seed 1",), "draw random"), (("draw chance 0.1 seed 1",), "draw chance"), (("draw first 5",), "no order"),
        (("keep word = 'oak' IGNORING CASE",), "IGNORING CASE"), (("keep word LIKE_REGEX 'a+'",), "LIKE_REGEX"),
        (("keep SOURCE_ROW < 5",), "SOURCE_ROW"), (("drop REPEATED(word)",), "REPEATED"), (("keep ROUND(real) = 1",), "ROUND"),
        (("order word NUMBER AWARE",), "NUMBER AWARE"), (("order at random seed 3",), "at random"), (("keep LN(whole) > 1",), "LN"),
        (("keep CAST(word AS integer) > 1",), "CAST"), (("order id", "draw from id = 1 to id = 5"), "from"),
        (("tally COUNT(*) along group",), "along"), (("keep whole > AVG(whole) PER group",), "PER"),
    ],
)  # fmt: skip
@pytest.mark.parametrize("dialect", ["sqlite", "postgresql"])
def test_what_cannot_be_said_is_said_to_be_so(table: Table, lines: tuple[str, ...], said: str, dialect: str) -> None:
    bound = bind_cut(Cut("", tuple(map(Line, lines))), table)
    with pytest.raises(ListError, match="SQL") as caught:
        as_statement(bound, table, "rows", dialect)
    assert said in str(caught.value)
    assert caught.value.statement == lines[-1]


@pytest.mark.parametrize(("word", "said"), [("GREATEST", "GREATEST"), ("LEAST", "LEAST")])
def test_texts_are_compared_by_code_point_where_a_database_would_not(table: Table, word: str, said: str) -> None:
    lines = bind_cut(Cut("", (Line(f"make m = {word}(word, long)"), Line(f"make n = {word}(whole, id)"))), table)
    statement = as_statement(lines, table, "rows", "postgresql")
    assert f'{said}("word" COLLATE "C", "long")' in statement
    assert f'{said}("whole", "id")' in statement
