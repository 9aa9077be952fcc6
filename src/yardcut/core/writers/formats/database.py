"""Writing an SQLite database with one table, ``slice``."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.formats import CARRIED
from yardcut.core.language.save_options import TABLE
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.plans import Plan

_USUAL_TABLE = "slice"
_MOST_COLUMNS = 2000
"""SQLITE_MAX_COLUMN, as it is everywhere."""
_TYPES = {Kind.INTEGER: "INTEGER", Kind.NUMBER: "REAL", Kind.BOOLEAN: "INTEGER"}


def write_database(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as a table. Days and instants are texts in ISO 8601, as SQLite's own functions take them.

    Raises ``TargetError`` for columns that cannot be ones of a table, and ``OSError``.
    """
    write_tables([(plan.options[TABLE] or _USUAL_TABLE, piece)], path, token, progress, carries=plan.carries)


def write_tables(
    pieces: Sequence[tuple[str, Frame]], path: Path, token: CancelToken, progress: Progress, *, carries: str = ""
) -> None:
    """Write slices as tables of one database, each under its name. Raises as :func:`write_database`."""
    for name, piece in pieces:
        _check(piece)
        if not name or "\0" in name or name.lower().startswith(("sqlite_", CARRIED)):
            raise TargetError(f"no table of SQLite can be called {quote_name(name)}", mend=Mend("write: table 'oak'"))
    try:
        with contextlib.closing(sqlite3.connect(path, isolation_level=None)) as database:
            # the file is not in its place yet: it is flushed as a whole, and thrown away if anything fails
            database.execute("PRAGMA journal_mode = OFF")
            database.execute("PRAGMA synchronous = OFF")
            database.execute("BEGIN")
            for name, piece in pieces:
                columns = ", ".join(f"{_quoted(each.name)} {_TYPES.get(each.kind, 'TEXT')}" for each in piece.columns)
                places = ", ".join("?" * len(piece.columns))
                database.execute(f"CREATE TABLE {_quoted(name)} ({columns})")
                for _, vectors in piece.blocks(token, progress):
                    rows = zip(*(_values(vector) for vector in vectors), strict=True)
                    database.executemany(f"INSERT INTO {_quoted(name)} VALUES ({places})", rows)
            if carries:
                database.execute(f"CREATE TABLE {CARRIED} (list TEXT)")
                database.execute(f"INSERT INTO {CARRIED} VALUES (?)", (carries,))
            database.execute("COMMIT")
    except sqlite3.Error as error:
        raise OSError(0, str(error)) from error


def _check(piece: Frame) -> None:
    if not piece.columns:
        raise TargetError("a table has a column, and this slice has none", mend=Mend("write it as csv"))
    if len(piece.columns) > _MOST_COLUMNS:
        raise TargetError(
            f"a table of SQLite has at most {_MOST_COLUMNS:,} columns, and the slice {len(piece.columns):,}",
            mend=Mend("choose fewer with a columns line, or write parquet"),
        )
    seen: dict[str, str] = {}
    for column in piece.columns:
        other = seen.setdefault(column.name.lower(), column.name)
        if other != column.name or "\0" in column.name:
            raise TargetError(
                f"SQLite cannot tell the columns {quote_name(other)} and {quote_name(column.name)} apart",
                mend=Mend("rename one with AS in a columns line"),
            )


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def _values(vector: Vector) -> list[Any]:
    if not isinstance(vector, NumericVector) or vector.kind not in _TYPES:
        return list(vector.texts())
    missing = vector.missing_mask()
    values: list[Any] = (
        (vector.values != 0).astype(int).tolist() if vector.kind is Kind.BOOLEAN else vector.values.tolist()
    )
    if missing is not None:
        for place in missing.nonzero()[0].tolist():
            values[place] = None
    return values


def carried_list(path: Path) -> str | None:
    """Return the list that a database carries."""
    with contextlib.closing(_read_only(path)) as database:
        try:
            row = database.execute(f"SELECT list FROM {CARRIED}").fetchone()
        except sqlite3.OperationalError:  # there is no such table
            return None
    return None if row is None else str(row[0])


def _read_only(path: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"file:{path.absolute()}?mode=ro".replace("#", "%23"), uri=True)


def count_rows(path: Path, plan: Plan) -> int:
    """Read the table back and count its rows."""
    with contextlib.closing(_read_only(path)) as database:
        return int(
            database.execute(f"SELECT count(*) FROM {_quoted(plan.options[TABLE] or _USUAL_TABLE)}").fetchone()[0]
        )
