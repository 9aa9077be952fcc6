"""Connections to a database file that can read and do nothing else, whatever is asked of them."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from urllib.parse import quote

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.progress import CancelToken

_QUERY_ERRORS = (sqlite3.Error, sqlite3.Warning, ValueError, OverflowError)
"""What a query can fail with: in 3.11 a second statement is a ``Warning``, a zero byte a ``ValueError``."""

_READING = frozenset({sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_FUNCTION, sqlite3.SQLITE_RECURSIVE})
_REACHING = frozenset({"load_extension", "fts3_tokenizer"})
"""Functions that load or lay open code of the process."""
# What full-text and spatial tables prepare for themselves when they are first read. None of it is carried out, and none
# could be: the file is open for reading alone, and the schema's table takes no UPDATE of a statement's own.
_ASKED_OF_THEMSELVES = frozenset({"data_version", "page_size"})
_OF_SPATIAL_TABLES = ("_node", "_rowid", "_parent")
_LONGEST_VALUE_BYTES = 100_000_000
_STEPS_BETWEEN_LOOKS = 20_000
_WAL_VERSION_AT, _WAL_VERSION = 18, b"\x02\x02"


@contextmanager
def reading_only(path: Path, token: CancelToken, seconds: float | None = None) -> Iterator[sqlite3.Connection]:
    """Connect to a database for reading alone.

    An authorizer lets through what a SELECT needs (https://www.sqlite.org/c3ref/set_authorizer.html); all else, a
    pragma or ATTACH among it, is an ``sqlite3.DatabaseError``. Work is stopped when the token says so, or after some
    ``seconds``; both raise ``StoppedError``, other failures of the statement ``SourceError``.
    """
    until = None if seconds is None else time.monotonic() + seconds

    def is_over() -> bool:
        return token.cancelled or (until is not None and time.monotonic() > until)

    try:
        with closing(sqlite3.connect(_address(path), uri=True)) as connection:
            connection.text_factory = lambda data: data.decode("utf-8", "replace")
            connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST_VALUE_BYTES)
            connection.set_authorizer(_authorize)
            connection.set_progress_handler(is_over, _STEPS_BETWEEN_LOOKS)
            yield connection
    except _QUERY_ERRORS as error:
        if is_over():
            raise StoppedError from error
        raise _refused(path, error) from error


def _authorize(action: int, first: str | None, second: str | None, *_: str | None) -> int:
    if action == sqlite3.SQLITE_FUNCTION:
        return sqlite3.SQLITE_DENY if (second or "").lower() in _REACHING else sqlite3.SQLITE_OK
    if action == sqlite3.SQLITE_PRAGMA:
        return sqlite3.SQLITE_OK if first in _ASKED_OF_THEMSELVES and second is None else sqlite3.SQLITE_DENY
    if action == sqlite3.SQLITE_UPDATE and first == "sqlite_master":
        return sqlite3.SQLITE_OK
    if action in (sqlite3.SQLITE_INSERT, sqlite3.SQLITE_DELETE) and (first or "").endswith(_OF_SPATIAL_TABLES):
        return sqlite3.SQLITE_OK
    return sqlite3.SQLITE_OK if action in _READING else sqlite3.SQLITE_DENY


def _refused(path: Path, error: Exception) -> SourceError:
    said = str(error).encode("utf-8", "replace").decode()
    if "not authorized" in said or "prohibited" in said:
        return SourceError(f"{path.name} is only ever read: {said}", mend=Mend("write a query that only selects"))
    if "malformed" in said or "not a database" in said:
        return SourceError(f"{path} is no whole SQLite database: {said}")
    return SourceError(f"{path.name} cannot be read: {said}", mend=Mend("check the table or the query"))


def _address(path: Path) -> str:
    """Return the address of a database, opened so that nothing is written beside it.

    A database with a write-ahead log gets two files beside it by whoever opens it, readers too. Where there is no such
    file nobody else has it open, and it is read as a file that does not change (that it did not is seen afterwards).
    """
    found = path.resolve()
    with open(found, "rb") as file:
        file.seek(_WAL_VERSION_AT)
        has_log = file.read(2) == _WAL_VERSION
    alone = has_log and not found.with_name(found.name + "-wal").exists()
    return f"file:{quote(str(found))}?mode=ro{'&immutable=1' if alone else ''}"
