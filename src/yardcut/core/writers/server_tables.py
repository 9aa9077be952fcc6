"""A slice as a table of a PostgreSQL server: copied into one of its own, counted, put in place in one transaction.

Whoever reads there sees the table that was there before, or all of the new one.
"""

from __future__ import annotations

import io
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

from yardcut.core.errors import Mend, SourceError, TargetError, TargetExistsError
from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.language.save_options import TABLE
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.postgresql_server import driver, reading_server, server_connection
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.formats.parquet import arrow_arrays, arrow_schema
from yardcut.core.writers.plans import Plan, plan_of
from yardcut.core.writers.saving_slices import Written
from yardcut.core.writers.slices_there import WriteHere

if TYPE_CHECKING:
    from psycopg import Connection

_TYPES = {
    Kind.TEXT: "text", Kind.INTEGER: "bigint", Kind.NUMBER: "double precision", Kind.BOOLEAN: "boolean",
    Kind.DATE: "date", Kind.TIME: "time", Kind.TIMESTAMP: "timestamp", Kind.INSTANT: "timestamptz",
}  # fmt: skip
_MOST_NAME_BYTES, _MOST_COLUMNS = 63, 1600
"""NAMEDATALEN - 1 and MaxHeapAttributeNumber, as they are everywhere."""
_BATCH_ROWS, _BATCH_CELLS = 1 << 16, 1 << 21
_EXISTS = """
    SELECT c.relkind::text FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
    WHERE n.nspname = %s AND c.relname = %s
"""


@dataclass(frozen=True, slots=True)
class ServerTable:
    """A table of a server to be written, perhaps in the place of one that is there; ``name`` may name its schema."""

    address: str
    name: str
    replace: bool = False
    nothing_to_choose: ClassVar[str] = "a table of a server has a name and nothing else to choose: table 'oak'"

    def __str__(self) -> str:
        return f"the table {self.name} on {self.address}"

    def plan(self, format_name: str | None, options: WriteOptions, *, is_parted: bool) -> Plan:
        """Return how it is written: as text that a server reads.

        Raises ``TargetError`` for what only files have, and where no table is named.
        """
        if not self.name:
            raise TargetError(f"{self.address} takes a table", mend=Mend("add: table 'oak'"))
        others = [option.words for option in options.options() if option is not TABLE]
        others += [f"as {format_name}"] * bool(format_name) + ["one file per"] * is_parted
        if others:
            raise TargetError(f"a table of a server has no {others[0]}", mend=Mend("leave it out"))
        _check_name(self.name)
        return plan_of(Path("slice.csv"))

    def check_there(self, token: CancelToken) -> None:
        """Look whether it may be put there. Raises ``TargetError``, ``TargetExistsError``, ``StoppedError``."""
        with _as_target(self), reading_server(self.address, token) as connection:
            _check_free(connection, self)

    def write(self, piece: Frame, here: WriteHere, token: CancelToken, progress: Progress) -> Written:
        """Write a slice as a table. Raises ``TargetError`` where the server refuses it, and ``StoppedError``."""
        return _save_on_server(piece, self, token, progress)


def _check_name(name: str) -> None:
    """Raise ``TargetError`` where no table can be called so."""
    for part in _parts(name):
        if not part or "\0" in part or len(part.encode()) > _MOST_NAME_BYTES:
            raise TargetError(f"no table of a server can be called {quote_name(name)}", mend=Mend("write: table 'oak'"))


def _save_on_server(piece: Frame, target: ServerTable, token: CancelToken, progress: Progress) -> Written:
    """Write a slice as a table of a server.

    Raises ``TargetError`` where the server refuses it, and ``StoppedError``; nothing of it is left there then.
    """
    _check_columns(piece)
    with _as_target(target), server_connection(target.address, token, writes=True) as connection:
        _check_free(connection, target)
        schema, table = _parts(target.name)
        beside = f"yardcut_{os.urandom(6).hex()}"
        columns = ", ".join(f"{_quoted(column.name)} {_TYPES[column.kind]}" for column in piece.columns)
        connection.execute(f"CREATE TABLE {_quoted(schema)}.{_quoted(beside)} ({columns})")
        _copy_in(connection, piece, f"{_quoted(schema)}.{_quoted(beside)}", token, progress)
        found = connection.execute(f"SELECT count(*) FROM {_quoted(schema)}.{_quoted(beside)}").fetchone()
        if found is None or found[0] != piece.rows.count:
            raise TargetError(f"{target.address}: {piece.rows.count:,} rows were sent, and others are there")
        if target.replace:
            connection.execute(f"DROP TABLE IF EXISTS {_quoted(schema)}.{_quoted(table)}")
        connection.execute(f"ALTER TABLE {_quoted(schema)}.{_quoted(beside)} RENAME TO {_quoted(table)}")
        token.check()
        connection.commit()
    return Written(Path(target.name), piece.rows.count, 0, where=str(target))


@contextmanager
def _as_target(target: ServerTable) -> Iterator[None]:
    """Tell what a server says of a target as of a target."""
    try:
        yield
    except SourceError as error:
        raise TargetError(error.message, mend=error.mend) from error
    except driver().errors.DuplicateTable as error:
        raise _exists(target) from error


def _exists(target: ServerTable) -> TargetExistsError:
    return TargetExistsError(f"{target} is there already", mend=Mend("add: replace"))


def _check_free(connection: Connection[Any], target: ServerTable) -> None:
    found = connection.execute(_EXISTS, _parts(target.name)).fetchone()
    if found is None:
        return
    if found[0] not in ("r", "p"):
        raise TargetError(
            f"{target} is none of its own, and is not replaced",
            mend=Mend("name another table"),
        )
    if not target.replace:
        raise _exists(target)


def _parts(name: str) -> tuple[str, str]:
    """Return schema and name of a table: public, where no schema is named."""
    schema, point, table = name.partition(".")
    return (schema, table) if point else ("public", name)


def _check_columns(piece: Frame) -> None:
    names = [column.name for column in piece.columns]
    wrong = next((name for name in names if "\0" in name or len(name.encode()) > _MOST_NAME_BYTES), None)
    if not names or len(names) > _MOST_COLUMNS:
        raise TargetError(
            f"a table of a server has 1 to {_MOST_COLUMNS:,} columns, and the slice {len(names):,}",
            mend=Mend("choose some with a columns line"),
        )
    if wrong is not None:
        raise TargetError(
            f"no column of a server can be called {quote_name(wrong)}",
            mend=Mend(f"rename it with AS in a columns line, to at most {_MOST_NAME_BYTES} bytes"),
        )


def _copy_in(connection: Connection[Any], piece: Frame, table: str, token: CancelToken, progress: Progress) -> None:
    """Send the rows: every value in quotes, so that an empty text is none that is missing."""
    import pyarrow as pa
    from pyarrow import csv

    schema = arrow_schema(piece)
    rows = rows_at_once(len(piece.columns), _BATCH_ROWS, _BATCH_CELLS)
    options = csv.WriteOptions(include_header=False, quoting_style="all_valid")
    with connection.cursor() as cursor, cursor.copy(f"COPY {table} FROM STDIN (FORMAT csv)") as copy:
        for _, vectors in piece.blocks(token, progress, rows):
            sent = io.BytesIO()
            batch = pa.RecordBatch.from_arrays(
                _plain(arrow_arrays(vectors)), names=[str(at) for at in range(len(schema))]
            )
            csv.write_csv(batch, sent, options)
            copy.write(sent.getbuffer())


def _plain(arrays: list[Any]) -> list[Any]:
    """Return columns as the writer of delimited text takes them: texts themselves in place of their codes."""
    import pyarrow as pa

    return [array.dictionary_decode() if pa.types.is_dictionary(array.type) else array for array in arrays]


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
