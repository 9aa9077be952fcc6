"""The whole language against a reference written from its document, against sqlite, and against itself by other ways.

``YARDCUT_LONG=1`` tries all combinations; ``make long`` goes on with the day's seed (``reliability/truth.py``).
"""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from pyarrow import csv as arrow_csv

from judging import (
    TODAY,
    by_package,
    by_reference,
    difference,
    make_sources,
    our_table,
    some_cut,
    write_csv,
    write_parquet,
)
from reference import coverage, systematic
from reference.generating import COLUMNS, Generator, make_rows
from reference.kinds import Table as PlainTable
from reference.lines import run
from thoroughness import IS_LONG, some
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sql.statement import as_statement
from yardcut.core.table.stored_table import Table

Sources = list[tuple[PlainTable, Table, Executor]]
CASES = 3000 if IS_LONG else 100


@pytest.fixture(scope="module")
def sources(tmp_path_factory: pytest.TempPathFactory) -> Sources:
    """Return tables of some rows, of few, and of one."""
    folder = tmp_path_factory.mktemp("truth")
    found = [make_sources(folder, rows, seed) for rows, seed in ((40, 1), (60, 2), (7, 3), (1, 4))]
    return [(plain, table, Executor(LocalRunner(table))) for plain, table in found]


def judged(lines: list[str], plain: PlainTable, executor: Executor) -> str | None:
    """Run lines by both, and say in what they differ; ``None`` where the package refuses them."""
    try:
        theirs = by_package(lines, executor)
    except ListError:
        return None
    found = difference(lines, by_reference(lines, plain), theirs)
    return "" if found is None else f"{found.lines}: {found.said}"


@pytest.mark.parametrize("part", range(8))
def test_every_form_of_every_kind_of_every_shape(sources: Sources, part: int) -> None:
    """Coverage by construction: each kind, as a literal, a column and a computed value, at each place of each form."""
    plain, _, executor = sources[0]
    for line in list(systematic.lines(whole=IS_LONG))[part::8]:
        assert judged([line], plain, executor) == "", line


@pytest.mark.parametrize("part", range(4))
def test_random_lines(sources: Sources, part: int) -> None:
    refused = 0
    for seed in range(part, CASES, 4):
        generator = Generator(seed)
        lines = [generator.line() for _ in range(generator.pick(1, 1, 2, 3))]
        plain, _, executor = sources[seed // 4 % 4]
        said = judged(lines, plain, executor)
        assert not said, f"seed {seed}: {said}"
        refused += said is None
    assert refused * 4 < CASES // 10, "what is refused tests nothing"


@pytest.mark.parametrize("part", range(4))
def test_random_tallies_groups_and_second_tables(sources: Sources, part: int) -> None:
    """And the lines above and below them."""
    refused = 0
    for seed in range(part, CASES, 4):
        plain, _, executor = sources[seed // 4 % 4]
        lines = some_cut(seed, plain)
        said = judged(lines, plain, executor)
        assert not said, f"seed {seed}: {said}"
        refused += said is None
    assert refused * 4 < CASES // 10, "what is refused tests nothing"


def test_what_the_systematic_lines_cover(sources: Sources) -> None:
    """Every part of every form was a literal, a column and a computed value, of each kind it takes, and missing."""
    plain = sources[0][0]
    seen: dict[tuple[str, int], set[tuple[str, str, bool]]] = {}
    for line in systematic.lines(whole=False):
        if line.startswith(("make", "keep")):
            for form, number, kind, shape, missing in coverage.seen_in(line, plain):
                seen.setdefault((form, number), set()).add((kind, shape, missing))
    functions = {form for form, _ in seen if form.startswith(("call", "whole", "cast", "extract", "math"))}
    assert {
        f"call {name}" for name in ("ABS", "ROUND", "LN", "POWER", "GREATEST", "COALESCE", "SUBSTRING", "DATE_FROM")
    } <= functions
    for (form, number), found in seen.items():
        shapes = {shape for _, shape, _ in found}
        if (
            form.startswith(
                ("call", "whole", "compare", "between", "in", "part", "like", "distinct", "case", "cast", "extract")
            )
            and form != "whole QUANTILE"
        ):
            assert {"column", "computed"} <= shapes or shapes == {"literal"}, (form, number, found)
        if "column" in shapes:
            assert any(missing for _, _, missing in found), (form, number, "was never missing")


# sqlite


@pytest.fixture(scope="module")
def database() -> Iterator[sqlite3.Connection]:
    with closing(sqlite3.connect(":memory:", check_same_thread=False)) as connection:
        connection.execute(
            f"CREATE TABLE rows ({', '.join(f'{chr(34)}{name}{chr(34)} {SQL_KINDS[kind]}' for name, kind in COLUMNS.items())})"
        )
        for row in make_rows(60, 2):
            connection.execute(
                f"INSERT INTO rows VALUES ({', '.join('?' * len(COLUMNS))})",
                [_for_sqlite(row[name]) for name in COLUMNS],
            )
        yield connection


SQL_KINDS = {
    "integer": "INTEGER",
    "number": "REAL",
    "boolean": "INTEGER",
    "text": "TEXT",
    "date": "TEXT",
    "timestamp": "TEXT",
    "time": "TEXT",
}


def _for_sqlite(value: Any) -> Any:
    return str(value) if value is not None and not isinstance(value, int | float | bool) else value


def _from_sqlite(value: Any, kind: str) -> Any:
    return value if kind != "boolean" or value is None else ("true" if value else "false")


def test_what_sql_can_say_sqlite_answers_alike(sources: Sources, database: sqlite3.Connection) -> None:
    """Whole statements of random cuts: the same rows and cells, whatever order equal rows come in."""
    _, table, executor = sources[1]
    said = 0
    for seed in range(60_000, 60_000 + (6000 if IS_LONG else 400)):
        generator = Generator(seed)
        generator.wholes = seed % 3 == 0
        lines = [generator.line() for _ in range(generator.pick(1, 2, 3))]
        bound = bind_cut(Cut("", tuple(map(Line, lines))), table, default_seed=0, today=(TODAY - EPOCH).days)
        if any(line.error is not None for line in bound):
            continue
        try:
            statement = as_statement(bound, table, "rows", "sqlite")
        except ListError:
            continue
        if "may take others" in statement:  # of equal rows at the edge of a draw
            continue
        said += 1
        names, _, cells = by_package(lines, executor)
        kinds = [str(column.kind) for column in (bound[-1].scope.shown)]
        found = [
            [_from_sqlite(value, kind) for value, kind in zip(row, kinds, strict=True)]
            for row in database.execute(statement)
        ]
        assert sorted(map(_near, found)) == sorted(map(_near, cells)), (seed, lines, statement)
        assert names == [each[0] for each in database.execute(statement).description], lines
    assert said > (600 if IS_LONG else 40)


EPOCH = TODAY.replace(1970, 1, 1)


def _near(row: list[Any]) -> list[str]:
    """Return cells as texts that can be sorted; sqlite adds doubles one after the other, and knows a -0."""
    is_number = [isinstance(cell, int | float) and not isinstance(cell, bool) for cell in row]
    return [f"{float(cell) + 0.0:.9g}" if number else str(cell) for cell, number in zip(row, is_number, strict=True)]


def test_an_order_is_by_the_column_that_was_meant(database: sqlite3.Connection, sources: Sources) -> None:
    """Though a later line shows another value under its name."""
    _, table, executor = sources[1]
    for lines in (
        ["order small, id", "make small = -small"], ["order price, id", "columns id, small AS price, price AS other"],
        ["order small DESC, id", "make SMALL = id"], ["order id", "draw last 3"], ["order small, id", "draw last 7 per flag"],
        ["order small, id DESC", "draw last 20 percent"], ["order small, id", "draw last 4 remainder"],
    ):  # fmt: skip
        bound = bind_cut(Cut("", tuple(map(Line, lines))), table, default_seed=0)
        found = [list(row) for row in database.execute(as_statement(bound, table, "rows", "sqlite"))]
        _, _, cells = by_package(lines, executor)
        at = [column.name for column in bound[-1].scope.shown].index("id")
        assert [row[at] for row in found] == [row[at] for row in cells], lines


# ourselves, by another way


def test_parts_threads_formats_and_what_is_kept_change_nothing(tmp_path: Path) -> None:
    """The same lines on the same rows: many parts on one thread, Parquet in place of text, results kept or not."""
    rows = make_rows(BLOCK_ROWS + 4000, 9)
    write_csv(rows, tmp_path / "rows.csv")
    write_parquet(rows, tmp_path / "rows.parquet", 9000)
    text, other = our_table(tmp_path / "rows.csv"), open_table(tmp_path / "rows.parquet")
    other.load(range(len(COLUMNS)), CancelToken())
    kept = Executor(LocalRunner(text))
    ways = [
        lambda: Executor(LocalRunner(text, BLOCK_ROWS, 1)), lambda: Executor(LocalRunner(text, BLOCK_ROWS, 2)),
        lambda: Executor(LocalRunner(other)), lambda: Executor(LocalRunner(text), limit_bytes=0),
    ]  # fmt: skip
    for seed in range(90_000, 90_000 + (300 if IS_LONG else 8)):
        generator = Generator(seed)
        lines = [generator.line() for _ in range(generator.pick(1, 2, 3))]
        if "REPEATED" in str(lines):  # slow by definition where few rows differ
            continue
        expected = digest(lines, kept)
        assert digest(lines, ways[seed % len(ways)]()) == expected, (seed, lines)
        assert digest(lines, kept) == expected, (seed, lines)


def digest(lines: list[str], executor: Executor) -> Any:
    """Return the rows that lines leave, and their first cells."""
    cut = Cut("", tuple(map(Line, lines)))
    try:
        results = list(executor.run(cut, default_seed=0, today=(TODAY - EPOCH).days))
    except ListError as error:
        return str(error)
    if len(results) < len(lines):
        return "refused"
    frame = results[-1].frame
    page = frame.page(0, 40, range(len(frame.columns)))
    return frame.table.source_ids(frame.rows.ids(0, frame.rows.count)).tolist(), list(map(tuple, page.cells))


def random_cuts(seed: int) -> dict[str, list[str]]:
    """Return a few cuts, of which later ones may begin with earlier ones; draws with replacement among them."""
    chance, cuts = random.Random(seed), dict[str, list[str]]()
    for number in range(chance.randint(2, 4)):
        generator = Generator(seed * 10 + number)
        lines = [generator.draw() if chance.random() < 0.5 else generator.line() for _ in range(chance.randint(1, 3))]
        if chance.random() < 0.4:
            lines.insert(
                chance.randint(0, 1),
                chance.choice(
                    [
                        "draw random 30 with replacement seed 3",
                        "draw random 12 with replacement weighted by small seed 1",
                    ]
                ),
            )
        if cuts and chance.random() < 0.5:
            lines.insert(0, f'from "{chance.choice(list(cuts))}"')
        cuts[f"c{number}"] = lines
    return cuts


@pytest.mark.parametrize("seed", range(120 if IS_LONG else 14))
def test_a_cut_is_what_it_is_whatever_ran_before(sources: Sources, seed: int) -> None:
    """Ranks of a draw with replacement leaked into other cuts: what is kept is kept by all it depends on."""
    plain, table, _ = sources[seed % 3]
    texts = random_cuts(seed)
    cuts = [Cut(name, tuple(map(Line, lines))) for name, lines in texts.items()]

    def left(executor: Executor, index: int) -> Any:
        try:
            results = list(executor.run(cuts[index], earlier=cuts[:index], default_seed=0, today=(TODAY - EPOCH).days))
        except ListError as error:
            return str(error)
        if len(results) < len(cuts[index].lines):
            return "refused"
        frame = results[-1].frame
        ids = frame.table.source_ids(frame.rows.ids(0, frame.rows.count)).tolist()
        return ids, list(map(tuple, frame.page(0, frame.rows.count, range(len(frame.columns))).cells))

    alone = [left(Executor(LocalRunner(table)), index) for index in range(len(cuts))]
    shared, chance = Executor(LocalRunner(table)), random.Random(seed)
    for index in chance.sample(range(len(cuts)), len(cuts)) + list(range(len(cuts))) * 2:
        assert left(shared, index) == alone[index], (texts, index)
    for index, (name, lines) in enumerate(texts.items()):
        if isinstance(alone[index], tuple):
            expected = run(lines, plain, texts)
            assert [row.source_row - 1 for row in expected.rows] == alone[index][0], (name, texts)


@pytest.mark.parametrize("lines", some([
    ["draw random 100 with replacement seed 123", "draw random 10 seed 1"], ["draw random 12 with replacement weighted by price seed 2", "draw top 8 by real"],
    ["draw random 100 percent with replacement seed 5", "draw bottom 3 by code per code"], ["draw random 30 with replacement seed 1", "draw random 3 weighted by price seed 4"],
], 4))  # fmt: skip
def test_ranks_belong_to_their_table(sources: Sources, lines: list[str]) -> None:
    for plain, table, _ in sources:
        executor = Executor(LocalRunner(table))
        for again in ([lines[1]], lines, [lines[1]], lines, [lines[0]]):
            assert judged(again, plain, executor) == "", again


def test_rows_read_by_arrow_are_the_rows(tmp_path: Path) -> None:
    """The file the judges share is read alike by another reader, so that a slip in it cannot hide."""
    write_csv(make_rows(40, 1), tmp_path / "rows.csv")
    assert arrow_csv.read_csv(tmp_path / "rows.csv").num_rows == 40
