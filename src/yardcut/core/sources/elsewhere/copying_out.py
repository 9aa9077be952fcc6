"""Rows of a PostgreSQL server copied into an Arrow file: COPY sends them as text, which is parsed as it comes.

Texts are exact in both directions: numbers in their shortest exact form, a missing value apart from an empty text.
"""

from __future__ import annotations

import io
import re
import threading
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.private import private_opener
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    from psycopg import Connection

_PIECE_BYTES, _MOST_PIECE_BYTES = 1 << 22, 1 << 30
_MOST_DIGITS, _NUMBER_DIGITS = 38, 15
_PATIENCE_SECONDS, _CANCEL_SECONDS = 0.2, 5.0
_COLUMN_NUMBER = re.compile(r"In CSV column #(\d+)")
_INTEGERS, _FLOATS, _NUMERIC, _BOOLEAN = (20, 21, 23, 26), (700, 701), 1700, 16
_TEXTS = (25, 1042, 1043, 19)
_DATE, _TIME, _TIMESTAMP, _INSTANT = 1082, 1083, 1114, 1184
"""Numbers of types, fixed in the server's catalog (src/include/catalog/pg_type.dat)."""


@dataclass(frozen=True, slots=True)
class ServerColumn:
    """A column of what a server gives: its name, and the Arrow type it is read as.

    ``is_rounded`` tells that its values here are the nearest numbers to those there, ``has_odd`` that some may be
    NaN or infinite there, which are no values here.
    """

    name: str
    type: Any
    note: str = ""
    is_text: bool = False
    is_rounded: bool = False
    has_odd: bool = False
    is_integer: bool = False


def columns_of(connection: Connection[Any], statement: str) -> list[ServerColumn]:
    """Return the columns of a statement, which is prepared and not run: it is one statement, and gives rows.

    Raises ``psycopg.Error`` and ``SourceError``.
    """
    from psycopg import errors
    from psycopg.pq import ExecStatus

    connection.execute("SELECT 1")  # the transaction begins here
    server = connection.pgconn
    for found in (server.prepare(b"", statement.encode()), server.describe_prepared(b"")):
        if found.status not in (ExecStatus.COMMAND_OK, ExecStatus.TUPLES_OK):
            raise errors.error_from_result(found)
    if not found.nfields:
        raise SourceError("this statement gives no table", mend=Mend("write a query that selects columns"))
    return [
        _column((found.fname(place) or b"").decode("utf-8", "replace"), found.ftype(place), found.fmod(place))
        for place in range(found.nfields)
    ]


def _column(name: str, number: int, modifier: int) -> ServerColumn:
    import pyarrow as pa

    types = {
        _BOOLEAN: pa.bool_(), _DATE: pa.date32(), _TIME: pa.time64("us"), _TIMESTAMP: pa.timestamp("us"),
        _INSTANT: pa.timestamp("us", "UTC"), **dict.fromkeys(_INTEGERS, pa.int64()),
        **dict.fromkeys(_FLOATS, pa.float64()),
    }  # fmt: skip
    if number != _NUMERIC:
        kind = types.get(number, pa.string())
        return ServerColumn(
            name, kind, is_text=number in _TEXTS, is_rounded=number == _FLOATS[0], has_odd=number in _FLOATS
        )
    precision, scale = (modifier - 4) >> 16, (modifier - 4) & 0x7FF
    if modifier >= 4 and precision <= _MOST_DIGITS and scale <= precision:
        return ServerColumn(name, pa.decimal128(precision, scale), is_rounded=True, has_odd=True)
    note = (
        f"its decimals may have any number of digits; they are read as the nearest number, which holds {_NUMBER_DIGITS}"
    )
    return ServerColumn(name, pa.float64(), note, is_rounded=True, has_odd=True)


def copy_out(
    connection: Connection[Any], statement: str, columns: list[ServerColumn], path: Path, token: CancelToken,
    progress: Progress,
) -> list[ServerColumn]:  # fmt: skip
    """Write what a statement gives into an Arrow file, and return the columns as they were read in the end.

    A column with a value that its type has no room for is read as text, and said. Raises ``psycopg.Error``,
    ``SourceError``, ``StoppedError`` and ``OSError``.
    """
    import pyarrow as pa

    piece_bytes = _PIECE_BYTES
    while True:
        try:
            for batch in copied(connection, statement, columns, path, token, progress, piece_bytes):
                progress.rows += batch.num_rows
            return columns
        except pa.ArrowInvalid as error:
            if "straddling" in str(error) and piece_bytes < _MOST_PIECE_BYTES:  # a row is larger than a piece
                piece_bytes *= 16
                connection.rollback()
                continue
            match = _COLUMN_NUMBER.search(str(error))
            place = int(match.group(1)) if match else -1
            if not 0 <= place < len(columns) or columns[place].type == pa.string():
                cause = (str(error).splitlines() or ["it cannot be read"])[0]
                raise SourceError(f"what the server gives is no table: {cause[:200]}") from error
            note = f"a value is no {_said(columns[place].type)} here, and so the column is read as text"
            connection.rollback()
            columns = [*columns]
            columns[place] = replace(columns[place], type=pa.string(), note=note)


def _said(kind: Any) -> str:
    return str(kind).split("[", 1)[0].split("(", 1)[0].rstrip("0123456789")


def schema_of(columns: list[ServerColumn]) -> Any:
    """Return the Arrow schema of the columns of a statement."""
    import pyarrow as pa

    return pa.schema([(column.name, column.type) for column in columns])


def copied(
    connection: Connection[Any], statement: str, columns: list[ServerColumn], path: Path, token: CancelToken,
    progress: Progress, piece_bytes: int = 0,
) -> Iterator[Any]:  # fmt: skip
    """Yield what a statement gives as record batches, each written into an Arrow file before it is yielded.

    Raises ``pyarrow.ArrowInvalid`` where a value is none of its column's type, or a row is larger than a piece;
    ``psycopg.Error``, ``StoppedError`` and ``OSError``.
    """
    import pyarrow as pa
    from pyarrow import csv

    places = [str(place) for place in range(len(columns))]
    schema = schema_of(columns)
    progress.begin("fetching", 0)
    # a line end behind the statement, which may end with a comment
    asked = f"COPY (\n{statement}\n) TO STDOUT (FORMAT csv)".encode()
    with (
        connection.cursor() as cursor, cursor.copy(asked) as copy, open(path, "wb", opener=private_opener) as file,
        pa.ipc.new_file(file, schema) as writer, _Pieces(copy, token, progress) as pieces,
    ):  # fmt: skip
        if pieces.is_empty:
            return
        reader = csv.open_csv(
            pa.PythonFile(pieces, mode="r"),
            csv.ReadOptions(column_names=places, block_size=piece_bytes or _PIECE_BYTES, use_threads=True),
            csv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
            csv.ConvertOptions(
                column_types=dict(zip(places, (column.type for column in columns), strict=True)),
                null_values=[""], strings_can_be_null=True, quoted_strings_can_be_null=False,
                true_values=["t"], false_values=["f"],
            ),
        )  # fmt: skip
        for batch in reader:
            token.check()
            typed = pa.RecordBatch.from_arrays(batch.columns, schema=schema)
            writer.write_batch(typed)
            yield typed


class _Pieces(io.RawIOBase):
    """What a server sends, as a file that is read from beginning to end; left, it is read by nobody any more.

    Who takes rows apart reads ahead on a thread of its own. Two at once on one connection take each other's answers,
    and then wait for ever.
    """

    def __init__(self, copy: Any, token: CancelToken, progress: Progress) -> None:
        self._copy, self._token, self._progress = copy, token, progress
        self._rest = bytes(copy.read())
        self._reading, self._is_left = threading.Lock(), False
        self.is_empty = not self._rest

    def __exit__(self, *error: object) -> None:
        """Wait for the end of what is read ahead; where the server takes its time, it is told to stop."""
        self._is_left = True
        if not self._reading.acquire(timeout=_PATIENCE_SECONDS):
            with suppress(Exception):  # the connection may be gone by now, and then nobody reads
                self._copy.connection.cancel_safe(timeout=_CANCEL_SECONDS)
            self._reading.acquire()
        self._reading.release()

    def readable(self) -> bool:
        """It is there to be read."""
        return True

    def read(self, size: int = -1) -> bytes:
        """Return the next bytes, ``size`` of them unless it ends before, or was left."""
        with self._reading:
            pieces, there, next_row = [self._rest], len(self._rest), self._copy.read
            # a server sends a row at a time, and there are millions
            while there < size and not self._is_left and (row := next_row()):
                pieces.append(row)
                there += len(row)
            if self._token.cancelled:
                raise StoppedError
            if self._is_left:
                return b""
            whole = b"".join(pieces)
            self._rest = whole[size:]
            self._progress.done += min(size, there)
            return whole[:size]
