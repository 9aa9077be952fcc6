"""Tables and queries of a PostgreSQL server: fetched once, whole, as they were at one time of the server."""

from __future__ import annotations

import hashlib
import json
import re
import threading
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yardcut.core.private import write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import address_of
from yardcut.core.sources.elsewhere.copying_out import ServerColumn, columns_of, copy_out
from yardcut.core.sources.elsewhere.postgresql_server import reading_server
from yardcut.core.sources.elsewhere.postgresql_tables import (
    Wanted,
    check_key,
    key_line,
    tables_of,
    wanted_of,
)
from yardcut.core.sources.form.table_look import TableLook
from yardcut.core.sources.formats.arrow import ArrowTable
from yardcut.core.sources.formats.arrow_batches import BatchFile
from yardcut.core.sources.formats.typed import kind_of
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.cache import reading_failed
from yardcut.core.values.kinds import Kind

if TYPE_CHECKING:
    from psycopg import Connection

FETCHING = threading.Lock()
"""Held by who fetches: of two who want the same, the second finds it."""


@dataclass(frozen=True, slots=True)
class Fetched:
    """What was fetched of a server: its file, its name, when it was so, and what is to be said of it."""

    path: str
    label: str
    as_of: str
    notes: tuple[str, ...]


SERVER = "PostgreSQL"
_ORDERS = re.compile(r"\border\s+by\b", re.IGNORECASE)


class ServerTable(ArrowTable):
    """A table or the answer of a query, as it was fetched."""

    what = SERVER

    def __init__(self, fetched: Fetched, spec: SourceSpec) -> None:
        super().__init__(Path(fetched.path), spec)
        describe(self, fetched)


def describe(table: BatchFile, fetched: Fetched) -> None:
    """Have a table say what was fetched, and of which time of the server it is."""
    table.label = fetched.label
    table.form = {"format": table.what, "as of": fetched.as_of}
    table.notes = [f"{fetched.label} is as it was at {fetched.as_of}", *table.notes, *fetched.notes]


def tables_there(path: Path, spec: SourceSpec) -> list[tuple[str, str]]:
    """Return the tables to choose from, with what is known of each. Raises ``SourceError``."""
    return [(table.name, str(table)) for table in tables_of(address_of(path), CancelToken())]


def server_tables(path: Path, spec: SourceSpec, token: CancelToken) -> list[ServerTable]:
    """Open what is wanted of a server; what was not fetched yet is. Raises ``SourceError``, ``StoppedError``."""
    return [ServerTable(each, spec) for each in fetch(path, spec, token, Progress())]


def fetch(path: Path, spec: SourceSpec, token: CancelToken, progress: Progress) -> list[Fetched]:
    """Fetch what the sub-lines want of a server, once as long as its time is the same.

    Raises ``SourceError``, ``StoppedError``.
    """
    note = note_of(path, spec)
    with FETCHING:
        if note.exists():
            return [Fetched(**{**each, "notes": tuple(each["notes"])}) for each in json.loads(note.read_bytes())]
        found = _fetched(path, spec, note, token, progress)
        write_note(note, found)
        return found


def note_of(path: Path, spec: SourceSpec) -> Path:
    """Return the file that says what was fetched of a server for some sub-lines, and is there when all of it is."""
    asked = repr((spec.query(path), spec.tables(path), key_line(spec, path).columns))
    return path.with_name(f"{hashlib.blake2b(asked.encode(), digest_size=8).hexdigest()}.json")


def write_note(note: Path, found: list[Fetched]) -> None:
    """Say that something was fetched. Raises ``OSError``."""
    write_private(note, json.dumps([asdict(each) for each in found]).encode())


def _fetched(path: Path, spec: SourceSpec, note: Path, token: CancelToken, progress: Progress) -> list[Fetched]:
    address = address_of(path)
    progress.begin(f"asking {path.name}", 1)
    found: list[Fetched] = []
    try:
        with reading_server(address, token) as connection:
            for number, wanted in enumerate(wanted_of(address, path, spec, connection)):
                check_key(connection, wanted, address)
                columns = columns_of(connection, wanted.statement)
                out = note.with_name(f"{note.stem}-{number}.arrow")
                columns = copy_out(connection, wanted.statement, columns, out, token, progress)
                found.append(described(path, wanted, connection, columns, out))
    except OSError as error:
        raise reading_failed(error, path.name, path.parent) from error
    return found


def described(
    path: Path, wanted: Wanted, connection: Connection[Any], columns: list[ServerColumn], out: Path
) -> Fetched:
    """Return what there is to say of something that is fetched into a file. Raises ``psycopg.Error``."""
    row = connection.execute("SELECT date_trunc('second', now())::timestamp::text || ' UTC'").fetchone()
    notes = [f"{column.name}: {column.note}" for column in columns if column.note]
    as_of = str(row[0]) if row is not None else ""
    return Fetched(str(out), f"{path.name} / {wanted.label}", as_of, (*_order(wanted), *notes))


def _order(wanted: Wanted) -> list[str]:
    if wanted.key:
        return [f"its rows stand in the order of its key: {', '.join(wanted.key)}"]
    if wanted.label == "query":
        otherwise = (
            "" if _ORDERS.search(wanted.statement) else "; it orders nothing, and that may be otherwise another time"
        )
        return [f"its rows stand as the query gave them{otherwise}"]
    return ["it has no primary key: its rows stand as the server gave them, and that may be otherwise another time"]


_FIRST_ROWS = 8


def look(path: Path, spec: SourceSpec, token: CancelToken) -> TableLook:
    """Look at the first rows of what is wanted of a server. Raises ``SourceError``, ``StoppedError``."""
    address = address_of(path)
    with reading_server(address, token) as connection:
        wanted = wanted_of(address, path, spec, connection)[0]
        columns = columns_of(connection, wanted.statement)
        rows = connection.execute(f"SELECT * FROM (\n{wanted.statement}\n) AS t LIMIT {_FIRST_ROWS}").fetchall()
    kinds = tuple(kind_of(column.type) or Kind.TEXT for column in columns)
    return TableLook(
        tuple(column.name for column in columns), kinds, tuple(tuple(map(_text, row)) for row in rows), None
    )


def _text(cell: Any) -> str | None:
    return None if cell is None else str(cell)
