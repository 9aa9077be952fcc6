"""The tables and views of a PostgreSQL server: which there are, and what is read of one."""

from __future__ import annotations

import time
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.copying_out import columns_of
from yardcut.core.sources.elsewhere.postgresql_server import driver, reading_server
from yardcut.core.sources.formats.sqlite import TableThere
from yardcut.core.sources.spec import KeyLine, SourceSpec

if TYPE_CHECKING:
    from pathlib import Path

    from psycopg import Connection

_COUNTING_SECONDS, _MOST_SECONDS = 1.0, 0.3
_MOST_NAMED = 12
_HIDDEN = r"^(pg_|information_schema$)"
_ALL = """
    SELECT n.nspname, c.relname, count(a.attname)
    FROM pg_class c
    JOIN pg_namespace n ON n.oid = c.relnamespace
    LEFT JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
    WHERE c.relkind IN ('r', 'v', 'm', 'p', 'f') AND n.nspname !~ %s AND has_schema_privilege(n.oid, 'USAGE')
    GROUP BY n.nspname, c.relname
    ORDER BY n.nspname <> 'public', n.nspname COLLATE "C", c.relname COLLATE "C"
"""
_KEY = """
    SELECT a.attname
    FROM pg_index i
    CROSS JOIN LATERAL unnest(i.indkey) WITH ORDINALITY AS k(attnum, place)
    JOIN pg_attribute a ON a.attrelid = i.indrelid AND a.attnum = k.attnum
    WHERE i.indisprimary AND i.indrelid = %s::regclass
    ORDER BY k.place
"""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is read of a server: a statement that gives rows, what it is called, and the key its rows stand in.

    ``unordered`` gives the same rows in any order, for who counts them. ``is_named`` tells that a sub-line names the
    key, and nobody has said yet that it is one.
    """

    statement: str
    unordered: str
    label: str
    key: tuple[str, ...] = ()
    is_named: bool = False


def tables_of(address: str, token: CancelToken) -> list[TableThere]:
    """Return the tables and views that may be read, those of schema public without its name.

    Rows are counted as long as that takes no time to speak of. Raises ``SourceError``, ``StoppedError``.
    """
    found = []
    until = time.monotonic() + _COUNTING_SECONDS
    with reading_server(address, token) as connection:
        for schema, name, columns in connection.execute(_ALL, (_HIDDEN,)).fetchall():
            left = min(_MOST_SECONDS, until - time.monotonic())
            rows = _counted(connection, _quoted(schema, name), left, token) if left > 0 else None
            found.append(TableThere(_called(schema, name), columns, rows))
    return found


def _counted(connection: Connection[Any], table: str, seconds: float, token: CancelToken) -> int | None:
    """Count the rows of a table; nothing where that takes longer, or it may not be read."""
    psycopg = driver()
    try:
        with connection.transaction():
            connection.execute(f"SET LOCAL statement_timeout = {max(1, int(seconds * 1000))}")
            row = connection.execute(f"SELECT count(*) FROM {table}").fetchone()
            connection.execute("SET LOCAL statement_timeout = 0")
    except psycopg.Error:
        if token.cancelled:
            raise StoppedError from None
        if connection.closed:
            raise
        return None
    return int(row[0]) if row is not None else None


def wanted_of(address: str, path: Path, spec: SourceSpec, connection: Connection[Any]) -> list[Wanted]:
    """Return what the sub-lines of a source want of a server: a query, tables, or the only one there is.

    Rows of a table stand in the order of its primary key, texts by their code points. Raises ``SourceError``.
    """
    query = spec.query(path)
    if query is not None:
        asked, line = query.strip().rstrip(";"), key_line(spec, path)
        key = line.columns
        statement = f"SELECT * FROM (\n{asked}\n) AS t" + _ordered(connection, asked, key) if key else asked
        return [Wanted(statement, asked, "query", key, is_named=bool(key) and not line.is_sure)]
    known = [(schema, name) for schema, name, _ in connection.execute(_ALL, (_HIDDEN,)).fetchall()]
    names = {_called(schema, name): (schema, name) for schema, name in known}
    names |= {f"{schema}.{name}": (schema, name) for schema, name in known}
    chosen = spec.tables(path)
    if chosen is None and len(known) != 1:
        listed = ", ".join(f"'{_called(*each)}'" for each in known[:_MOST_NAMED])
        more = f" and {len(known) - _MOST_NAMED:,} more" if len(known) > _MOST_NAMED else ""
        raise SourceError(
            f"{address} holds {len(known)} tables: {listed}{more}" if known else f"{address} holds no tables",
            mend=Mend("say which one with a line: table 'name'") if known else None,
        )
    found = []
    for name in chosen or [_called(*each) for each in known]:
        if name not in names:
            raise SourceError(
                f"{address} has no table '{name}'",
                mend=Mend("it has " + ", ".join(f"'{_called(*each)}'" for each in known[:_MOST_NAMED])),
            )
        table = _quoted(*names[name])
        named = key_line(spec, path).columns
        key = named or tuple(column for (column,) in connection.execute(_KEY, (table,)).fetchall())
        statement = f"SELECT * FROM {table}"
        ordered = statement + _ordered(connection, statement, key)
        found.append(Wanted(ordered, statement, name, key, is_named=bool(named)))
    return found


def key_line(spec: SourceSpec, path: Path) -> KeyLine:
    """Return the sub-line that names a key for a server, the last one, or one without columns."""
    named = (line for line in reversed(spec.lines) if isinstance(line, KeyLine) and line.applies(path))
    return next(named, KeyLine(None))


def check_key(connection: Connection[Any], wanted: Wanted, address: str) -> None:
    """Raise ``SourceError`` where a key that was named does not tell the rows apart."""
    if not wanted.is_named:
        return
    names, rows = ", ".join(_quoted(column) for column in wanted.key), f"(\n{wanted.statement}\n) AS t"
    missing = " OR ".join(f"{_quoted(column)} IS NULL" for column in wanted.key)
    for said, statement in (
        ("a row has no value of it", f"SELECT 1 FROM {rows} WHERE {missing} LIMIT 1"),
        ("several rows have one value of it", f"SELECT 1 FROM {rows} GROUP BY {names} HAVING count(*) > 1 LIMIT 1"),
    ):
        if connection.execute(statement.encode()).fetchone() is not None:
            raise SourceError(
                f"{', '.join(wanted.key)} is no key of {wanted.label} on {address}: {said}",
                mend=Mend("name columns that tell the rows apart"),
            )


def _ordered(connection: Connection[Any], statement: str, key: tuple[str, ...]) -> str:
    """Return the clause that puts rows into the order of a key, texts by their code points."""
    if not key:
        return ""
    kinds = {column.name: column.is_text for column in columns_of(connection, statement)}
    for column in key:
        if column not in kinds:
            raise SourceError(
                f"the key names {column}, which is no column there",
                mend=Mend("it has " + ", ".join(list(kinds)[:_MOST_NAMED])),
            )
    return " ORDER BY " + ", ".join(_quoted(column) + (' COLLATE "C"' if kinds[column] else "") for column in key)


def _called(schema: str, name: str) -> str:
    return name if schema == "public" else f"{schema}.{name}"


def _quoted(*names: str) -> str:
    return ".".join('"' + name.replace('"', '""') + '"' for name in names)
