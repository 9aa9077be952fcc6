"""A table of a server that is read while its rows come; when all are here it is one that was fetched."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import address_of
from yardcut.core.sources.elsewhere.copying_out import ServerColumn, columns_of, copied, schema_of
from yardcut.core.sources.elsewhere.postgresql import FETCHING, SERVER, describe, described, note_of, write_note
from yardcut.core.sources.elsewhere.postgresql_server import driver, reading_server
from yardcut.core.sources.elsewhere.postgresql_tables import Wanted, check_key, wanted_of
from yardcut.core.sources.formats.arrow import ArrowTable
from yardcut.core.sources.spec import SourceSpec

if TYPE_CHECKING:
    from psycopg import Connection

_PIECE_BYTES = 1 << 19
"""Several pieces are read ahead of the first rows: the smaller they are, the sooner these are there."""


class ComesOtherwiseError(Exception):
    """A value is none of its column's type, or a row is very long: it is to be fetched before it is read."""


@dataclass(frozen=True, slots=True)
class Coming:
    """What is on its way: a server can be asked for the same rows, at the same time of it (``snapshot``)."""

    address: str
    wanted: Wanted
    columns: tuple[ServerColumn, ...]
    snapshot: str


_coming: dict[Path, Coming] = {}


def coming(path: Path) -> Coming | None:
    """Return what is on its way from the server that a file stands for, if anything is and may be asked about."""
    return _coming.get(path)


@contextmanager
def asking(of: Coming, token: CancelToken) -> Iterator[Connection[Any]]:
    """Connect to a server once more, at the time of which something comes. Raises as ``reading_server`` does."""
    with reading_server(of.address, token) as connection:
        connection.execute(f"SET TRANSACTION SNAPSHOT '{of.snapshot}'".encode())
        yield connection


@contextmanager
def _on_its_way(path: Path, of: Coming) -> Iterator[None]:
    _coming[path] = of
    try:
        yield
    finally:
        del _coming[path]


class ComingTable(ArrowTable):
    """A table or the answer of a query whose rows are on their way: the first who goes over them brings them here."""

    what = SERVER

    def __init__(
        self, connection: Connection[Any], statement: str, columns: list[ServerColumn], path: Path, spec: SourceSpec,
        token: CancelToken,
    ) -> None:  # fmt: skip
        self._columns = columns
        super().__init__(path, spec)
        self._connection, self._statement, self._token = connection, statement, token
        self.is_here = False

    def _look(self) -> tuple[Any, list[int]]:
        return schema_of(self._columns), []

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        if self.is_here:
            yield from super()._batches(roots)
            return
        import pyarrow as pa

        rows = 0
        try:
            for batch in copied(
                self._connection, self._statement, self._columns, self.path, self._token, Progress(), _PIECE_BYTES
            ):
                rows += batch.num_rows
                yield batch
        except pa.ArrowInvalid as error:
            raise ComesOtherwiseError from error
        except driver().Error as error:
            if self._token.cancelled:
                raise StoppedError from error
            raise
        self.size, self.is_here = rows, True


@contextmanager
def coming_table(path: Path, spec: SourceSpec, token: CancelToken, progress: Progress) -> Iterator[ComingTable | None]:
    """Open the one table that is wanted of a server; nothing where it is here already, or more than one is wanted.

    The server is asked as long as the table is open. Raises ``SourceError``, ``StoppedError``; who reads it may meet
    ``ComesOtherwiseError``.
    """
    note = note_of(path, spec)
    with FETCHING:
        if note.exists():
            yield None
            return
        address = address_of(path)
        progress.begin(f"asking {path.name}", 1)
        with reading_server(address, token) as connection:
            wanted, *others = wanted_of(address, path, spec, connection)
            if others:
                yield None
                return
            check_key(connection, wanted, address)
            columns = columns_of(connection, wanted.statement)
            out = note.with_suffix(".arrow")
            found = described(path, wanted, connection, columns, out)
            table = ComingTable(connection, wanted.statement, columns, out, spec, token)
            describe(table, found)
            with _on_its_way(path, Coming(address, wanted, tuple(columns), _snapshot(connection))):
                yield table
            if table.is_here:
                write_note(note, [found])


def _snapshot(connection: Connection[Any]) -> str:
    """Return the name under which another connection finds the time of this one. Raises ``psycopg.Error``."""
    row = connection.execute("SELECT pg_export_snapshot()").fetchone()
    assert row is not None
    return str(row[0])
