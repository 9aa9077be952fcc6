"""Tables of a PostgreSQL server: what is read is what psql says is there, at one time, and passwords are kept nowhere."""

from __future__ import annotations

import random
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

import yardcut as yardcut_face
from commands import yardcut, yardcut_process
from helpers import run_lines, take_grammars
from postgres_server import PostgresServer, a_server
from thoroughness import examples
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere import addresses, extras, postgresql_tables
from yardcut.core.sources.elsewhere.standing import let_be_read_anew
from yardcut.core.sources.formats.inside import look_into, tables_inside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import QueryLine, SourceSpec, TableLine
from yardcut.core.table.stored_table import Table

pytest.importorskip("psycopg")


@pytest.fixture(scope="module")
def server() -> Iterator[PostgresServer]:
    with a_server() as found:
        found.rows(
            "CREATE TABLE packs (ticket text PRIMARY KEY, species text, boards int, volume numeric(8,3), price float8,"
            " felled date, seen timestamptz, sawn timestamp, at time, kept bool, tags text[], note json);"
            "CREATE SCHEMA kiln; CREATE TABLE kiln.runs (id bigint, began timestamp);"
            "CREATE TABLE nothing (a int, b text); CREATE VIEW oak AS SELECT * FROM packs WHERE species = 'oak'"
        )
        rows = ", ".join(_row(number, random.Random(number)) for number in range(400))
        found.rows(f"INSERT INTO packs VALUES {rows}; INSERT INTO kiln.runs VALUES (1, '2031-01-01 10:00:00.25')")
        yield found


TEXTS = [
    "oak",
    "",
    "NA",
    " blank ",
    'in "quotes"',
    "two\nlines",
    "a,b",
    "élan",
    "漢字",
    "\\N",
    "\t",
    "0042",
    "it's",
    "🪵",
]


def _row(number: int, chance: random.Random) -> str:
    def some(*values: str) -> str:
        return "NULL" if chance.random() < 0.2 else chance.choice(values)

    text = "'" + chance.choice(TEXTS).replace("'", "''") + "'"
    cells = [
        f"'T{number * 7919 % 1000:03}é'", some(text), some("0", "-7", "2147483647"), some("0.001", "-12.5", "99999.999"),
        some("0.1", "1e300", "-0.0", "12.30"), some("'2031-02-28'", "'1999-12-31'"),
        some("'2031-03-01 12:00+02'", "'2031-07-01 00:00:00.123456Z'"), some("'2031-03-01 12:00:00.5'"), some("'23:59:59.999'"),
        some("true", "false"), some("'{a,\"b c\"}'"), some("'{\"a\": 1}'"),
    ]  # fmt: skip
    return f"({', '.join(cells)})"


def spec_of(server: PostgresServer, table: str = "", query: str = "") -> SourceSpec:
    spec = SourceSpec((server.address(),))
    if query:
        return spec.with_line(QueryLine(None, query))
    return spec.with_line(TableLine(None, (table,))) if table else spec


def cells(table: Table, *lines: str) -> list[list[str | None]]:
    frame = run_lines(table, *(lines or ("columns all",)))[-1].frame
    page = frame.page(0, frame.rows.count, range(len(frame.columns)))
    return [list(row) for row in zip(*page.cells, strict=True)] if page.cells else []


def test_all_values_are_those_the_server_says(server: PostgresServer) -> None:
    table = open_table(spec_of(server, "packs"))
    assert [f"{column.name} {column.kind}" for column in table.columns] == [
        "ticket text", "species text", "boards integer", "volume number", "price number", "felled date", "seen instant",
        "sawn timestamp", "at time", "kept boolean", "tags text", "note text",
    ]  # fmt: skip
    theirs = server.rows(
        "SET timezone = 'UTC'; SELECT ticket, species, boards, volume::float8, price + 0.0, felled, "
        "to_char(seen, 'YYYY-MM-DD HH24:MI:SS.US'), to_char(sawn, 'YYYY-MM-DD HH24:MI:SS.US'), "
        "to_char(at, 'HH24:MI:SS.US'), CASE WHEN kept THEN 'true' WHEN NOT kept THEN 'false' END, tags, note "
        'FROM packs ORDER BY ticket COLLATE "C"'
    )
    ours = cells(table)
    assert len(ours) == len(theirs) == 400
    for one, other in zip(ours, theirs, strict=True):
        for place, (mine, yours) in enumerate(zip(one, other, strict=True)):
            if yours == "\u2205":
                assert mine is None, (one, other)
            elif place in (3, 4):
                assert mine is not None
                assert float(mine) == float(yours), (one, other)
            elif place in (6, 7, 8):
                assert mine is not None
                assert mine.removesuffix("+00:00").split(".")[0] == yours.split(".")[0], (one, other)
                assert float(f"0.{[*mine.removesuffix('+00:00').split('.'), '0'][1]}") == float(
                    f"0.{yours.split('.')[1]}"
                )
            else:
                assert mine == yours, (one, other)


@pytest.mark.parametrize("seed", range(examples(15)))
def test_conditions_leave_what_the_server_counts(server: PostgresServer, seed: int) -> None:
    chance = random.Random(seed)
    condition = chance.choice([
        "species = 'oak'", "species = ''", "species IS NULL", "species = 'NA' OR boards < 0", "volume > 0.5",
        "price = 0.1", "felled > DATE '2030-01-01' AND kept", "NOT kept", "boards IS NOT NULL AND price < 0.5",
        "species LIKE '%o%'", "volume BETWEEN -20 AND 1",
    ])  # fmt: skip
    table = open_table(spec_of(server, chance.choice(["packs", "public.packs"])))
    counted = server.rows(f"SELECT count(*) FROM packs WHERE {condition}")
    assert run_lines(table, f"keep {condition}")[-1].rows.count == int(counted[0][0])


def test_the_same_seed_draws_the_same_rows_whatever_order_the_server_keeps_them_in(server: PostgresServer) -> None:
    draw = ("draw random 20 seed 5", "columns ticket")
    before = cells(open_table(spec_of(server, "packs")), *draw)
    server.rows("UPDATE packs SET boards = boards; VACUUM FULL packs; ANALYZE packs")
    addresses.read_all_anew()
    assert cells(open_table(spec_of(server, "packs")), *draw) == before


@pytest.mark.parametrize(
    ("spec_lines", "order"),
    [
        (("table 'oak'", "key ticket"), 'ticket COLLATE "C"'),
        (("query 'select * from packs where boards = 0'", "key ticket"), 'ticket COLLATE "C"'),
        (("table 'packs'", "key volume, ticket"), "no key"), (("table 'packs'", "key species"), "no key"),
        (("table 'packs'", "key absent"), "no column there"), (("table 'kiln.runs'", "key id"), "id"),
    ],
    ids=str,
)  # fmt: skip
def test_a_key_that_is_named_gives_the_order(server: PostgresServer, spec_lines: tuple[str, ...], order: str) -> None:
    spec = SourceSpec((server.address(),), tuple(map(parse_sub_line, spec_lines)))
    if order.startswith("no "):
        with pytest.raises(SourceError, match=order):
            open_table(spec)
        return
    table = open_table(spec)
    where = {"oak": "species = 'oak'", "query 'select": "boards = 0"}
    condition = next((said for word, said in where.items() if word in spec_lines[0]), "true")
    name = "kiln.runs" if "kiln" in spec_lines[0] else "packs"
    first = order.split(" ")[0]
    theirs = server.rows(f"SELECT {first} FROM {name} WHERE {condition} ORDER BY {order}")
    assert [[row[0]] for row in cells(table)] == theirs
    assert f"its rows stand in the order of its key: {first}" in table.info.notes


def test_a_key_is_for_servers(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    done = yardcut("cut", "a.csv", "-l", "key a", cwd=tmp_path)
    assert (done.returncode, "the key line cannot apply to a.csv" in done.stderr) == (2, True), done.stderr


def test_tables_are_listed_with_their_rows_and_looked_into(
    server: PostgresServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    for limit in ("_COUNTING_SECONDS", "_MOST_SECONDS"):  # a busy machine needs longer, and then they are not counted
        monkeypatch.setattr(postgresql_tables, limit, 60.0)
    spec = spec_of(server)
    path = spec.paths()[0]
    assert tables_inside(path, spec) == [
        ("nothing", "2 columns, 0 rows"), ("oak", f"12 columns, {_count(server)} rows"),
        ("packs", "12 columns, 400 rows"), ("kiln.runs", "2 columns, 1 row"),
    ]  # fmt: skip
    look = look_into(path, spec, "packs", CancelToken())
    assert look.names[:3] == ("ticket", "species", "boards")
    assert [row[0] for row in look.rows] == [row[0] for row in cells(open_table(spec_of(server, "packs")))][:8]
    with pytest.raises(SourceError, match="holds 4 tables: 'nothing', 'oak', 'packs', 'kiln.runs'"):
        open_table(spec)
    with pytest.raises(SourceError, match="has no table 'spruce'"):
        open_table(spec_of(server, "spruce"))


def _count(server: PostgresServer) -> str:
    return server.rows("SELECT count(*) FROM oak")[0][0]


@pytest.mark.parametrize(
    ("query", "expected"),
    [
        ("SELECT 1 AS a, NULL AS b, '' AS c", [["1", None, ""]]),
        ("SELECT NULL::text AS only FROM generate_series(1, 3)", [[None], [None], [None]]),
        ("SELECT 1 AS a, 2 AS a -- a note;", [["1", "2"]]),
        ("VALUES (1, 'x'), (2, 'y');", [["1", "x"], ["2", "y"]]),
        ("SELECT ticket FROM packs WHERE false", []),
        ("SELECT date 'infinity' AS d, date '2031-01-01' AS e", [["infinity", "2031-01-01"]]),
        ("SELECT 'NaN'::float8 AS f, 12345678901234567890.5::numeric AS n", [[None, "1.2345678901234567e+19"]]),
        ("SELECT length(repeat('x', 1000)) AS n, '" + "y" * 3 + "' AS t", [["1000", "yyy"]]),
        ("WITH x AS (SELECT generate_series(1, 3) AS n) SELECT sum(n) AS s FROM x", [["6"]]),
    ],
)
def test_a_query_is_a_table(server: PostgresServer, query: str, expected: list[list[str | None]]) -> None:
    assert cells(open_table(spec_of(server, query=query))) == expected


@pytest.mark.long
def test_very_many_columns_are_read(server: PostgresServer) -> None:
    query = "SELECT " + ", ".join(f"{n} AS c{n}, NULL::text AS d{n}" for n in range(700))
    table = open_table(spec_of(server, query=query))
    assert (len(table.columns), cells(table)[0][:4]) == (1400, ["0", None, "1", None])


def test_a_query_that_is_stopped_before_it_begins_is_stopped(server: PostgresServer) -> None:
    token = CancelToken()
    token.cancel()
    start = time.monotonic()
    with pytest.raises(StoppedError):
        open_table(spec_of(server, query="SELECT pg_sleep(61), 1 AS a"), token, Progress())
    assert time.monotonic() - start < 20


@pytest.mark.parametrize(
    "query",
    [
        "DELETE FROM packs", "INSERT INTO packs VALUES ('x') RETURNING 1", "SELECT 1; SELECT 2",
        "SELECT 1) TO PROGRAM 'touch /tmp/yardcut-was-here' --", "SELECT 1 /*", "UPDATE packs SET boards = 1",
        "SELECT nextval('none')", "", "CREATE TABLE x (a int)", "SELECT count(*) FROM absent",
        "WITH gone AS (DELETE FROM packs RETURNING 1) SELECT * FROM gone",
    ],
)  # fmt: skip
def test_nothing_but_reading_is_done(server: PostgresServer, query: str) -> None:
    with pytest.raises(SourceError):
        open_table(spec_of(server, query=query or " "))
    assert server.rows("SELECT count(*) FROM packs") == [["400"]]
    assert not Path("/tmp/yardcut-was-here").exists()


def test_what_was_read_is_as_it_was_until_it_is_read_anew(server: PostgresServer, tmp_path: Path) -> None:
    server.rows("DROP TABLE IF EXISTS moving; CREATE TABLE moving (a int); INSERT INTO moving VALUES (1)")
    spec = spec_of(server, "moving")
    first = open_table(spec)
    server.rows("INSERT INTO moving VALUES (2)")
    assert open_table(spec).rows == 1
    assert open_table(spec).fingerprint == first.fingerprint
    let_be_read_anew(spec)
    again = open_table(spec)
    assert (again.rows, cells(first)) == (2, [["1"]])
    assert again.fingerprint != first.fingerprint
    assert "moving is as it was at" in again.info.notes[0]
    for rows in (3, 4):  # whoever opens it from Python or runs a cut has it as it is now
        server.rows(f"INSERT INTO moving VALUES ({rows})")
        assert yardcut_face.open(server.address(), "table 'moving'").rows == rows
        done = yardcut("cut", server.address(), "-l", "table 'moving'", "-l", "tally COUNT(*)", cwd=tmp_path)
        assert done.stdout == f"count\n{rows}\n"
    server.rows("DROP TABLE moving")


def test_a_long_query_is_stopped_on_the_server_too(server: PostgresServer) -> None:
    token = CancelToken()
    threading.Timer(0.5, token.cancel).start()
    start = time.monotonic()
    with pytest.raises(StoppedError):
        open_table(spec_of(server, query="SELECT pg_sleep(60), 1 AS a"), token, Progress())
    assert time.monotonic() - start < 20
    busy = "SELECT count(*) FROM pg_stat_activity WHERE state = 'active' AND query LIKE '%pg_sleep(60)%' AND pid <> pg_backend_pid()"
    until = time.monotonic() + 10
    while server.rows(busy) != [["0"]] and time.monotonic() < until:
        time.sleep(0.1)
    assert server.rows(busy) == [["0"]]


def test_a_server_that_goes_away_leaves_no_half_table(server: PostgresServer, tmp_path: Path) -> None:
    query = "SELECT repeat('x', 1000) AS a, pg_sleep(0.001) FROM generate_series(1, 1000000)"
    failed: list[Exception] = []

    def read() -> None:
        try:
            open_table(spec_of(server, query=query))
        except SourceError as error:
            failed.append(error)

    reading = threading.Thread(target=read)
    reading.start()
    ended = "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = 'yardcut' AND query LIKE 'COPY%'"
    until = time.monotonic() + 30
    while not server.rows(ended) and time.monotonic() < until:
        time.sleep(0.1)
    reading.join(30)
    assert failed
    assert "terminating connection" in str(failed[0]) or "closed the connection" in str(failed[0])


def test_what_cannot_be_reached_is_said(tmp_path: Path) -> None:
    done = yardcut("cut", "postgresql://nobody@localhost:1/yard", "-l", "draw first 1", cwd=tmp_path)
    assert done.returncode == 1
    assert "postgresql://nobody@localhost:1/yard: " in done.stderr
    assert "refused" in done.stderr


def test_a_password_stands_in_nothing_that_is_written(server: PostgresServer, tmp_path: Path) -> None:
    address = server.address().replace("postgres@", "postgres:sesame@")
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{address}"\n  table \'packs\'\ncut "x"\n  keep boards = 0\n  save "oak.parquet" with list\n'
    )
    done = yardcut("run", "a.cut", "--report", "report.json", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert "the password was taken out of the address" in done.stderr
    for words in (["explain", "a.cut"], ["show", "oak.parquet"], ["check", "a.cut"]):
        said = yardcut(*words, cwd=tmp_path)
        assert "sesame" not in said.stdout + said.stderr
    (tmp_path / "a.cut").unlink()
    import os

    places = [tmp_path, *(Path(os.environ[name]) for name in ("XDG_CACHE_HOME", "XDG_STATE_HOME"))]
    written = [path for place in places for path in place.rglob("*") if path.is_file()]
    assert len(written) > 3
    assert not [path for path in written if b"sesame" in path.read_bytes()]
    again = yardcut("run", "oak.parquet", "--out", "again.csv", cwd=tmp_path)
    assert again.returncode == 0, again.stderr


def test_a_server_brings_columns_and_is_compared_with_the_last_run(server: PostgresServer, tmp_path: Path) -> None:
    (tmp_path / "asked.csv").write_text("ticket,who\nT000é,anna\nT919é,ben\nT001x,cyd\n")
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "asked.csv"\nsource "{server.address()}" AS packs\n  table \'packs\'\ncut "x"\n'
        "  bring boards from packs by ticket\n"
    )
    expected = {row[0]: row[1] for row in server.rows("SELECT ticket, boards FROM packs")}
    for _ in range(2):
        done = yardcut("run", "a.cut", cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        assert "since the last run" not in done.stderr
        rows = [line.split(",") for line in done.stdout.splitlines()[1:]]
        assert [row[2] for row in rows] == [
            "" if expected.get(row[0], "\u2205") == "\u2205" else expected[row[0]] for row in rows
        ]


@pytest.mark.long
def test_nothing_of_a_server_stays_in_the_cache(server: PostgresServer, tmp_path: Path) -> None:
    take_grammars(tmp_path / "cache")
    done = yardcut_process(
        "cut", server.address(), "-l", "table 'packs'", "-l", "keep boards = 0", "-l", "order price", cwd=tmp_path,
        XDG_CACHE_HOME=str(tmp_path / "cache"),
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    cache = tmp_path / "cache" / "yardcut"
    assert not [each for each in (*cache.glob("piped-*"), *(cache / "stores").iterdir()) if each.is_dir()]


def test_watching_a_server_is_refused(server: PostgresServer, tmp_path: Path) -> None:
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{server.address()}"\n  table \'packs\'\ncut "x"\n  draw first 1\n'
    )
    done = yardcut("watch", "a.cut", "--runs", "1", cwd=tmp_path)
    assert done.returncode == 1
    assert "does not say when it changes" in done.stderr


def test_where_the_driver_is_missing_the_extra_is_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def without(name: str) -> Any:
        raise ImportError(name)

    monkeypatch.setattr(extras, "import_module", without)
    with pytest.raises(SourceError, match=r"pip install 'yardcut\[postgresql\]'"):
        open_table(SourceSpec(("postgresql://localhost:1/yard",)))
