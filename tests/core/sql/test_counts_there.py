"""What a server counts of a table that is on its way is what is counted here when it has come."""

from __future__ import annotations

import random
from collections.abc import Iterator

import pytest

from postgres_server import PostgresServer, a_server
from thoroughness import examples
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.elsewhere import addresses
from yardcut.core.sources.elsewhere.coming_tables import asking, coming, coming_table
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec, TableLine
from yardcut.core.sql.counts_there import counts_of_all
from yardcut.core.table.stored_table import Table

pytest.importorskip("psycopg")
CONDITIONS = [
    "keep boards > 20", "drop species = 'oak'", "keep species IN ('oak', 'yew')", "drop price IS NULL",
    "keep price > 40.5 OR boards < 3", "keep species LIKE '%a%'", "keep felled >= DATE '2031-02-10'",
    "drop volume = 0.1", "keep volume + 0.2 = 0.3",
]  # fmt: skip
NOTHING_TO_SEND = [
    "keep price > AVG(price)", "keep SOURCE_ROW < 10", "draw first 3", "order boards", "keep REPEATED(species)",
]  # fmt: skip


@pytest.fixture(scope="module")
def server() -> Iterator[PostgresServer]:
    with a_server() as found:
        found.rows(
            "CREATE TABLE packs (id int PRIMARY KEY, species text, boards int, price float8, volume real, felled date);"
            "INSERT INTO packs SELECT n, (ARRAY['oak', 'ash', 'yew', NULL, 'larch'])[1 + n % 5], n % 47,"
            " CASE WHEN n % 7 > 0 THEN (n * 31 % 100)::float8 END, (n % 3) / 10.0, date '2031-01-01' + n % 90"
            " FROM generate_series(1, 2000) AS n"
        )
        yield found


@pytest.fixture
def there(server: PostgresServer) -> Iterator[tuple[SourceSpec, Table]]:
    """Yield a source, and the table it will be: the rows were fetched here before."""
    spec = SourceSpec((server.address(),)).with_line(TableLine(None, ("packs",)))
    table = open_table(spec)
    addresses.read_all_anew()
    yield spec, table
    addresses.read_all_anew()


def asked(spec: SourceSpec, table: Table, *lines: str) -> list[int] | None:
    """Have them counted while the table is on its way, of which no row has come."""
    path, token = spec.paths()[0], CancelToken()
    bound = bind_cut(Cut("", tuple(map(Line, lines))), table)
    with coming_table(path, spec, token, Progress()):
        found = counts_of_all(path, bound, token)
    return None if found is None else [found[0], *(line.rows_out for line in found[1])]


def counted(table: Table, *lines: str) -> list[int]:
    cut = Cut("", tuple(map(Line, lines)))
    return [table.rows, *(result.rows.count for result in Executor(LocalRunner(table)).run(cut))]


@pytest.mark.few(5)
@pytest.mark.parametrize("seed", range(examples(150)))
def test_conditions(there: tuple[SourceSpec, Table], seed: int) -> None:
    lines = random.Random(seed).sample(CONDITIONS, random.Random(seed).randint(0, 3))
    assert asked(*there, *lines) == counted(there[1], *lines)


@pytest.mark.parametrize("line", NOTHING_TO_SEND)
def test_the_lines_above_what_cannot_be_sent(there: tuple[SourceSpec, Table], line: str) -> None:
    assert asked(*there, CONDITIONS[0], line, CONDITIONS[1]) == counted(there[1], CONDITIONS[0])


def test_the_rows_are_those_of_the_time_at_which_they_come(
    server: PostgresServer, there: tuple[SourceSpec, Table]
) -> None:
    spec, table = there
    path, token = spec.paths()[0], CancelToken()
    with coming_table(path, spec, token, Progress()):
        server.rows("INSERT INTO packs (id) VALUES (5000)")
        try:
            assert counts_of_all(path, [], token) == (table.rows, [])
        finally:
            server.rows("DELETE FROM packs WHERE id = 5000")


def test_what_has_come_is_not_asked_about(there: tuple[SourceSpec, Table]) -> None:
    spec, _ = there
    path, token = spec.paths()[0], CancelToken()
    with coming_table(path, spec, token, Progress()):
        of = coming(path)
    assert of is not None
    assert coming(path) is None
    assert counts_of_all(path, [], token) is None
    with pytest.raises(SourceError, match="snapshot"), asking(of, token):
        pass
