"""Databases are read and nothing else: no query writes, reaches outside, or goes on when it is stopped."""

import contextlib
import os
import sqlite3
import threading
import time
from pathlib import Path

import pytest

from yardcut.core.errors import ListError, SourceError, StoppedError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats.sqlite import tables_of
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

ENDLESS = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT count(*) AS boards FROM n"

WRITING = [
    "VACUUM INTO 'HERE/made.db'",
    "ATTACH 'HERE/made.db' AS other",
    "ATTACH 'HERE/made.db' AS other; SELECT 1",
    "CREATE TABLE made (a)",
    "CREATE TEMP TABLE made AS SELECT 1 AS a",
    "INSERT INTO packs VALUES ('00009-31', 1)",
    "INSERT INTO packs VALUES ('00009-31', 1) RETURNING ticket",
    "UPDATE packs SET boards = 0 RETURNING boards",
    "DELETE FROM packs RETURNING ticket",
    "DROP TABLE packs",
    "PRAGMA journal_mode = wal",
    "PRAGMA user_version = 7",
    "PRAGMA table_info(packs)",
    "SELECT * FROM pragma_user_version(7)",
    "SELECT load_extension('HERE/made.so')",
    "SELECT fts3_tokenizer('simple') AS reaches",
    "BEGIN EXCLUSIVE",
    "REINDEX",
    "ANALYZE",
    "VACUUM",
    "SELECT 1; SELECT 2",
    "SELECT 1\x00",
    "SELECT '\ud800' AS half",
    "SELECT zeroblob(999999999) AS large",
    "",
    "-- nothing",
]


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "yard.db"
    with contextlib.closing(sqlite3.connect(path)) as file, file:
        file.execute("CREATE TABLE packs (ticket TEXT, boards INTEGER)")
        file.executemany("INSERT INTO packs VALUES (?, ?)", [("00001-31", 12), ("00002-31", None)])
    return path


def opened(path: Path, query: str, token: CancelToken | None = None) -> Table:
    line = parse_sub_line("query '" + query.replace("'", "''") + "'")
    return open_table(SourceSpec((str(path),), (line,)), token)


@pytest.mark.parametrize("query", WRITING)
def test_what_does_more_than_read_is_refused_in_a_sentence(database: Path, query: str) -> None:
    before = database.read_bytes()
    with pytest.raises((SourceError, ListError)) as refused:
        opened(database, query.replace("HERE", str(database.parent)))
    assert os.listdir(database.parent) == ["yard.db"]
    assert database.read_bytes() == before
    assert str(refused.value).isprintable()


def test_what_reads_is_answered(database: Path) -> None:
    for query in (
        "SELECT ticket, upper(ticket) AS loud FROM packs WHERE boards > 3",
        "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 5) SELECT i, '' AS bay FROM n",
        "SELECT a.ticket, b.boards FROM packs a LEFT JOIN packs b USING (ticket);",
        "SELECT ticket, row_number() OVER (ORDER BY boards) AS place FROM packs",
        "VALUES (1, 'oak')",
    ):
        assert len(opened(database, query).columns) == 2


def test_full_text_and_spatial_tables_are_read_and_not_written(database: Path) -> None:
    with contextlib.closing(sqlite3.connect(database)) as file, file:
        for kind in ("fts4", "fts5"):
            file.execute(f"CREATE VIRTUAL TABLE {kind}_notes USING {kind}(remark)")
            file.execute(f"INSERT INTO {kind}_notes VALUES ('blue stain in one board')")
        file.execute("CREATE VIRTUAL TABLE lots USING rtree(id, least, most)")
        file.execute("INSERT INTO lots VALUES (1, 2, 3)")
    before = database.read_bytes()
    assert opened(database, "SELECT remark FROM fts4_notes WHERE fts4_notes MATCH 'stain'").rows == 1
    assert opened(database, "SELECT remark FROM fts5_notes WHERE fts5_notes MATCH 'stain'").rows == 1
    assert opened(database, "SELECT id FROM lots WHERE least > 1").rows == 1
    for query in (
        "DELETE FROM lots_node", "INSERT INTO lots_rowid VALUES (7, 7)", "DELETE FROM lots RETURNING id",
        "UPDATE sqlite_master SET sql = ''", "INSERT INTO fts5_notes VALUES ('x') RETURNING remark",
    ):  # fmt: skip
        with pytest.raises(SourceError):
            opened(database, query)
    assert database.read_bytes() == before


def test_an_endless_query_is_stopped(database: Path) -> None:
    token = CancelToken()
    threading.Timer(0.3, token.cancel).start()
    began = time.process_time()
    with pytest.raises(StoppedError):
        opened(database, ENDLESS, token)
    assert time.process_time() - began < 10


def test_an_endless_view_does_not_hold_up_the_choice_of_tables(database: Path) -> None:
    with contextlib.closing(sqlite3.connect(database)) as file, file:
        file.execute(f"CREATE VIEW endless AS {ENDLESS}")
        file.execute("CREATE VIEW broken AS SELECT * FROM gone")
    assert tables_of(database) == [("broken", None, None), ("endless", 1, None), ("packs", 2, 2)]


def test_a_database_with_a_log_is_read_and_nothing_is_left_beside_it(database: Path) -> None:
    with contextlib.closing(sqlite3.connect(database)) as file:
        file.execute("PRAGMA journal_mode = wal")
        file.execute("INSERT INTO packs VALUES ('00003-31', 3)")
        file.commit()
        assert opened(database, "SELECT * FROM packs").rows == 3  # while somebody else has it open
    assert os.listdir(database.parent) == ["yard.db"]
    assert opened(database, "SELECT ticket FROM packs").rows == 3
    assert os.listdir(database.parent) == ["yard.db"]
