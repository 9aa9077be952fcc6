"""A table of a server that is read while it comes: its first rows are psql's first, and in the end it is as one that was fetched."""

from __future__ import annotations

import random
from collections.abc import Iterator

import pytest

from postgres_server import PostgresServer, a_server
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.expressions.frame import source_frame
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken
from yardcut.core.sources.elsewhere import addresses, coming_tables
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.rows_so_far import RowsSoFar
from yardcut.core.table.stored_table import Table
from yardcut.core.table.table_so_far import TableSoFar

pytest.importorskip("psycopg")
ROWS = 3_000
TEXTS = ["oak", "", "NA", "two\nlines", "a,b", "it's", 'in "quotes"', "漢字", "0042", "x" * 70]


def _row(number: int) -> str:
    chance = random.Random(number)
    text = chance.choice(TEXTS).replace("'", "''")
    cells = [
        f"'T{number * 7919 % ROWS:05}'",
        f"'{text}'",
        str(chance.randint(-9, 9)),
        str(chance.random()),
        "'2031-02-28'",
    ]
    return f"({', '.join(cell if place == 0 or chance.random() > 0.1 else 'NULL' for place, cell in enumerate(cells))})"


@pytest.fixture(scope="module")
def server() -> Iterator[PostgresServer]:
    with a_server() as found:
        found.rows(
            "CREATE TABLE packs (ticket text PRIMARY KEY, species text, boards int, price float8, felled date);"
            "CREATE TABLE nothing (a int, b text); CREATE TABLE ends (id int PRIMARY KEY, felled date);"
            f"INSERT INTO packs VALUES {', '.join(map(_row, range(ROWS)))};"
            f"INSERT INTO ends SELECT n, '2031-01-01' FROM generate_series(1, {ROWS}) AS n;"
            f"INSERT INTO ends VALUES ({ROWS + 1}, 'infinity')"
        )
        yield found


@pytest.fixture(autouse=True)
def small_pieces(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    monkeypatch.setattr(coming_tables, "_PIECE_BYTES", 1 << 12)
    yield
    addresses.read_all_anew()


class Watched(RowsSoFar):
    """Asks for the rows after every piece, and stops it all after some."""

    def __init__(self, stops_after: int = 0, token: CancelToken | None = None) -> None:
        self.tables: list[TableSoFar] = []
        self._stops_after, self._token = stops_after, token
        super().__init__(self._take, 0)

    def is_due(self) -> bool:
        return True

    def _take(self, table: TableSoFar) -> None:
        self.tables.append(table)
        if self._token is not None and len(self.tables) == self._stops_after:
            self._token.cancel()


def spec_of(server: PostgresServer, *lines: str) -> SourceSpec:
    spec = SourceSpec((server.address(),))
    for line in lines:
        spec = spec.with_line(parse_sub_line(line))
    return spec


def cells(table: Table) -> list[tuple[str | None, ...]]:
    return list(zip(*source_frame(table).page(0, table.rows, range(len(table.columns))).cells, strict=True))


def psql(server: PostgresServer, statement: str) -> list[tuple[str | None, ...]]:
    return [tuple(None if cell == "\u2205" else cell for cell in row) for row in server.rows(statement)]


IN_ORDER = 'SELECT ticket, species, boards, felled FROM packs ORDER BY ticket COLLATE "C"'


@pytest.mark.long
@pytest.mark.parametrize(
    "lines",
    [("table 'packs'",), ("query 'select * from packs'", "key ticket"), ("table 'packs'", "kind boards text")],
)
def test_its_first_rows_are_the_servers_first_and_all_of_it_is_as_fetched(
    server: PostgresServer, lines: tuple[str, ...]
) -> None:
    asked = Watched()
    table = open_table(spec_of(server, *lines), so_far=asked)
    theirs = psql(server, IN_ORDER)
    assert len(asked.tables) > 5
    for first in asked.tables:
        assert 0 < first.rows <= ROWS
        assert first.share_read == 0.0, "nobody knows how many rows a query gives"
        assert [(a, b, c, e) for a, b, c, _, e in cells(first)] == theirs[: first.rows]
    assert [(a, b, c, e) for a, b, c, _, e in cells(table)] == theirs
    again = open_table(spec_of(server, *lines))
    assert cells(again) == cells(table), "it is here, and nobody asks for it"
    addresses.read_all_anew()
    fetched = open_table(spec_of(server, *lines))
    assert cells(fetched) == cells(table)
    assert [(each.name, each.kind) for each in fetched.columns] == [(each.name, each.kind) for each in table.columns]
    assert [said.split(" is as it was")[0] for said in fetched.info.notes] == [
        said.split(" is as it was")[0] for said in table.info.notes
    ]
    assert [file.label for file in fetched.info.files] == [file.label for file in table.info.files]


@pytest.mark.long
def test_what_was_here_stays_as_it_was_until_it_is_read_anew(server: PostgresServer) -> None:
    spec = spec_of(server, "table 'packs'")
    first = open_table(spec, so_far=Watched())
    server.rows("INSERT INTO packs VALUES ('U1', 'yew', 1, 1, NULL)")
    try:
        asked = Watched()
        assert open_table(spec, so_far=asked).rows == first.rows
        assert not asked.tables
        addresses.read_all_anew()
        assert open_table(spec, so_far=asked).rows == first.rows + 1
        assert asked.tables
        assert len(cells(first)) == first.rows
    finally:
        server.rows("DELETE FROM packs WHERE ticket = 'U1'")


@pytest.mark.long
def test_a_value_that_is_none_of_its_kind_has_it_fetched_before_it_is_read(server: PostgresServer) -> None:
    asked = Watched()
    table = open_table(spec_of(server, "table 'ends'"), so_far=asked)
    assert asked.tables
    assert table.rows == ROWS + 1
    assert cells(table)[-1] == (str(ROWS + 1), "infinity")
    assert any("is read as text" in said for said in table.info.notes)


def test_a_row_larger_than_a_piece_has_it_fetched_too(server: PostgresServer) -> None:
    wide = "query 'select n, repeat(''x'', n * 100) as w from generate_series(1, 90) as n'"
    table = open_table(spec_of(server, wide), so_far=Watched())
    assert [len(text or "") for _, text in cells(table)] == [100 * number for number in range(1, 91)]


@pytest.mark.parametrize(
    ("lines", "rows"),
    [(("table 'nothing'",), 0), (("table 'packs', 'packs'",), 2 * ROWS), (("query 'select 1 as n'",), 1)],
)
def test_no_rows_several_tables_and_one_row(server: PostgresServer, lines: tuple[str, ...], rows: int) -> None:
    assert open_table(spec_of(server, *lines), so_far=Watched()).rows == rows


def test_stopped_it_leaves_the_rows_that_came_and_none_is_taken_for_all_of_them(server: PostgresServer) -> None:
    token, spec = CancelToken(), spec_of(server, "table 'packs'")
    asked = Watched(3, token)
    part = open_table(spec, token, keep_part=True, so_far=asked)
    assert 0 < part.rows < ROWS
    assert [(a, b, c, e) for a, b, c, _, e in cells(part)] == psql(server, IN_ORDER)[: part.rows]
    assert f"only a part was read: the first {part.rows:,} rows" in part.info.notes, part.info.notes
    assert open_table(spec).rows == ROWS


def test_stopped_without_its_rows_kept_it_leaves_nothing(server: PostgresServer) -> None:
    token, spec = CancelToken(), spec_of(server, "table 'packs'")
    with pytest.raises(StoppedError):
        open_table(spec, token, so_far=Watched(2, token))
    assert open_table(spec, so_far=Watched()).rows == ROWS


def test_what_the_server_refuses_is_said(server: PostgresServer) -> None:
    with pytest.raises(SourceError, match="no table 'oaks'"):
        open_table(spec_of(server, "table 'oaks'"), so_far=Watched())
    with pytest.raises(SourceError, match="division by zero"):
        open_table(
            spec_of(server, "query 'select 1 / (n - 2000) as n from generate_series(1, 3000) as n'"), so_far=Watched()
        )


@pytest.mark.long
def test_a_server_that_goes_away_leaves_no_half_table(server: PostgresServer) -> None:
    spec = spec_of(server, "query 'select n, repeat(''x'', 90) as w from generate_series(1, 400000) as n'")

    class Ends(Watched):
        def _take(self, table: TableSoFar) -> None:
            if not self.tables:
                server.rows("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'yardcut'")
            super()._take(table)

    with pytest.raises(SourceError, match=r"terminating connection|closed the connection"):
        open_table(spec, keep_part=True, so_far=Ends())
    assert open_table(spec).rows == 400_000
