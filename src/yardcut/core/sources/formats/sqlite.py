"""Tables and queries of an SQLite database file, which is only ever read."""

from __future__ import annotations

import time
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import NamedTuple

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.formats import CARRIED
from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats.reading_only import reading_only
from yardcut.core.sources.formats.records import BATCH_ROWS, Batch, RecordsFile
from yardcut.core.sources.formats.typed import cell_text
from yardcut.core.sources.spec import SourceSpec

_COUNTING_SECONDS, _MOST_SECONDS, _LEAST_SECONDS = 1.0, 0.3, 0.05
"""For counting the rows of all tables, and of one; to ask one for its columns there is a moment always."""


class TableThere(NamedTuple):
    """A table or view: its name, and how many columns and rows it has, ``None`` where that is not known."""

    name: str
    columns: int | None
    rows: int | None

    def __str__(self) -> str:
        """Say what there is of it."""
        if self.columns is None:
            return "a view that cannot be read"
        rows = "rows not counted" if self.rows is None else f"{self.rows:,} row{'' if self.rows == 1 else 's'}"
        return f"{self.columns} column{'' if self.columns == 1 else 's'}, {rows}"


def tables_of(path: Path, token: CancelToken | None = None) -> list[TableThere]:
    """Return a database's tables and views. Raises ``SourceError`` or ``StoppedError``.

    Rows are counted as long as that takes no time to speak of: a view may be a query without an end.
    """
    token = token or CancelToken()
    with reading_only(path, token) as database:
        names = [
            name for (name,) in database.execute(
                "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite\\_%' "
                f"ESCAPE '\\' AND name <> '{CARRIED}' ORDER BY name"
            )
        ]  # fmt: skip
    until = time.monotonic() + _COUNTING_SECONDS
    return [_table(path, name, token, until) for name in names]


def _table(path: Path, name: str, token: CancelToken, until: float) -> TableThere:
    columns = rows = None
    try:
        left = min(_MOST_SECONDS, until - time.monotonic())
        with reading_only(path, token, max(_LEAST_SECONDS, left)) as database:
            columns = len(database.execute(f"SELECT * FROM {_name(name)} LIMIT 0").description)
            if left > 0:
                rows = database.execute(f"SELECT count(*) FROM {_name(name)}").fetchone()[0]
    except (SourceError, StoppedError):
        token.check()
    return TableThere(name, columns, rows)


def _name(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def tables_there(path: Path, spec: SourceSpec) -> list[tuple[str, str]]:
    """Return the tables to choose from, with what is known of each. Raises ``SourceError``."""
    return [(table.name, str(table)) for table in tables_of(path)]


def database_tables(path: Path, spec: SourceSpec, token: CancelToken) -> Iterator[DatabaseTable]:
    """Open the tables wanted of a database, or a query; its only table when nothing is said."""
    query = spec.query(path)
    if query is not None:
        yield DatabaseTable(path, spec, f"{path.name} / query", query, token)
        return
    known = tables_of(path, token)
    wanted = spec.tables(path)
    if wanted is None and len(known) != 1:
        listed = ", ".join(f"'{table.name}' ({table})" for table in known[:12])
        raise SourceError(
            f"{path} holds {len(known)} tables: {listed}" if known else f"{path} holds no tables",
            mend=Mend("say which one with a line: table 'name'") if known else None,
        )
    names = [table.name for table in known]
    for name in wanted or names:
        if name not in names:
            raise SourceError(
                f"{path} has no table '{name}'", mend=Mend("it has " + ", ".join(f"'{n}'" for n in names))
            )
        yield DatabaseTable(path, spec, f"{path.name} / {name}", f"SELECT * FROM {_name(name)}", token)


class DatabaseTable(RecordsFile):
    """One table or the answer of one query."""

    def __init__(self, path: Path, spec: SourceSpec, label: str, query: str, token: CancelToken) -> None:
        self._query = query
        self._token = token
        with reading_only(path, token) as database:
            names = [column[0] for column in database.execute(query).description or ()]
        if not names:
            raise SourceError(f"{label} gives no table", mend=Mend("write a query that selects columns"))
        super().__init__(path, spec, label, names, {"format": "SQLite", "query": query})

    def batches(self) -> Generator[Batch, None, None]:
        """Yield the rows in the database's own order."""
        done = 0
        with reading_only(self.path, self._token) as database:
            cursor = database.execute(self._query)
            while rows := cursor.fetchmany(BATCH_ROWS):
                done += len(rows)
                yield [[cell_text(cell) for cell in row] for row in rows], done, []
