"""Tables and queries of an SQLite database file, which is only ever read."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from urllib.parse import quote

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.formats.records import BATCH_ROWS, Batch, RecordsFile
from yardcut.core.sources.formats.typed import cell_text
from yardcut.core.sources.spec import SourceSpec


def _connect(path: Path) -> sqlite3.Connection:
    connection = sqlite3.connect(f"file:{quote(str(path.resolve()))}?mode=ro", uri=True)
    connection.text_factory = lambda data: data.decode("utf-8", "replace")
    return connection


def tables_of(path: Path) -> list[tuple[str, int, int]]:
    """Return name, number of columns and number of rows of a database's tables and views. Raises ``SourceError``."""
    try:
        with closing(_connect(path)) as database:
            names = [
                name for (name,) in database.execute(
                    "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' "
                    "ESCAPE '\\' ORDER BY name"
                )
            ]  # fmt: skip
            return [
                (
                    name,
                    len(database.execute(f"SELECT * FROM {_name(name)} LIMIT 0").description),
                    database.execute(f"SELECT count(*) FROM {_name(name)}").fetchone()[0],
                )
                for name in names
            ]
    except sqlite3.Error as error:
        raise SourceError(f"{path} is no whole SQLite database: {error}") from error


def _name(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def database_tables(path: Path, spec: SourceSpec) -> Iterator[DatabaseTable]:
    """Open the tables wanted of a database, or a query; its only table when nothing is said."""
    query = spec.query(path)
    if query is not None:
        yield DatabaseTable(path, spec, f"{path.name} / query", query)
        return
    known = tables_of(path)
    wanted = spec.tables(path)
    if wanted is None and len(known) != 1:
        listed = ", ".join(f"'{name}' ({columns} columns, {rows:,} rows)" for name, columns, rows in known[:12])
        raise SourceError(
            f"{path} holds {len(known)} tables: {listed}" if known else f"{path} holds no tables",
            mend=Mend("say which one with a line: table 'name'") if known else None,
        )
    names = [name for name, _, _ in known]
    for name in wanted or names:
        if name not in names:
            raise SourceError(
                f"{path} has no table '{name}'", mend=Mend("it has " + ", ".join(f"'{n}'" for n in names))
            )
        yield DatabaseTable(path, spec, f"{path.name} / {name}", f"SELECT * FROM {_name(name)}")


class DatabaseTable(RecordsFile):
    """One table or the answer of one query."""

    def __init__(self, path: Path, spec: SourceSpec, label: str, query: str) -> None:
        self._query = query
        try:
            with closing(_connect(path)) as database:
                names = [column[0] for column in database.execute(query).description or ()]
        except sqlite3.Error as error:
            raise SourceError(f"{label} cannot be read: {error}", mend=Mend("check the table or the query")) from error
        if not names:
            raise SourceError(f"{label} gives no table", mend=Mend("write a query that selects columns"))
        super().__init__(path, spec, label, names, {"format": "SQLite", "query": query})

    def batches(self) -> Iterator[Batch]:
        """Yield the rows in the database's own order."""
        done = 0
        try:
            with closing(_connect(self.path)) as database:
                cursor = database.execute(self._query)
                while rows := cursor.fetchmany(BATCH_ROWS):
                    done += len(rows)
                    yield [[cell_text(cell) for cell in row] for row in rows], done, []
        except sqlite3.Error as error:
            raise SourceError(f"{self.label} cannot be read: {error}") from error
