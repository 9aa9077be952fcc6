"""Conditions at the head of a cut, counted by the server that has the rows: what is here is not looked at."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yardcut.core.language.meaning.bound import SecondValue
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.sources.elsewhere.coming_tables import asking, coming
from yardcut.core.sources.elsewhere.copying_out import ServerColumn
from yardcut.core.sql.dialects import DIALECTS, quoted_name
from yardcut.core.sql.expression_texts import NotSaidError, Writer, not_said

if TYPE_CHECKING:
    from psycopg import Connection

OWN_NAME = "yardcut "
"""What columns are called that are written beside those of the server."""
_NEEDS_PLACES = re.compile(r"\b(seed|random|chance|weighted|stratified|part|source_row)\b", re.IGNORECASE)
"""Words of lines that look at the place of a row among all of the source: a text that holds one is taken for it too."""

Condition = tuple[str, bool]
"""A condition in SQL, and whether the line drops the rows for which it is true."""


@dataclass(frozen=True, slots=True)
class SentLine:
    """What a line that was sent did there: rows that reached it, that it left, that it took for want of a value."""

    rows_in: int
    rows_out: int
    unknown: int


def conditions_of(
    lines: Sequence[BoundLine], columns: Sequence[ServerColumn], *, places_matter: bool = True
) -> tuple[list[Condition], str]:
    """Return the conditions that can be sent, and why there are no more.

    Where rows are fetched, ``places_matter``: a line further down may look at the place of a row among all of them.
    """
    for line in lines if places_matter else ():
        if not line.off and _NEEDS_PLACES.search(line.line.text):
            return [], "a draw by a seed, or a row's number, needs the places of all rows"
    found: list[Condition] = []
    names = {number: _exact_name(number, column) for number, column in enumerate(columns)}
    writer = Writer(DIALECTS["postgresql"], names, {}, _not_looked_up)
    for number, line in enumerate(lines, 1):
        body = line.bound.body if line.bound is not None and not line.off else None
        if line.error is not None or not isinstance(body, BoundFilter) or body.condition is None:
            return found, ""
        try:
            found.append((writer.condition(body.condition), body.drops))
        except NotSaidError as error:
            return found, f"line {number} ran here: {error.message}"
    return found, ""


def _not_looked_up(value: SecondValue) -> str:
    raise not_said("what is looked up in a second table", "it stands here")


def _exact_name(number: int, column: ServerColumn) -> str:
    return f"{OWN_NAME}{number}" if column.is_rounded else column.name


def with_exact_numbers(statement: str, columns: Sequence[ServerColumn]) -> str:
    """Return a statement that has decimals and short numbers beside themselves, as the numbers they are here."""
    beside = "".join(
        f', CAST(CAST({quoted_name(column.name)} AS text) AS double precision) AS "{_exact_name(number, column)}"'
        for number, column in enumerate(columns)
        if column.is_rounded
    )
    return f"SELECT *{beside} FROM (\n{statement}\n) AS whole"


def counts_of_all(path: Path, lines: Sequence[BoundLine], token: CancelToken) -> tuple[int, list[SentLine]] | None:
    """Ask a server for the rows of a table that is on its way, all of them and those that the first lines leave.

    ``lines`` are bound to the columns of what has come, and hold no value that only its rows gave. Nothing where
    nothing is on its way from the server that ``path`` stands for. Raises ``SourceError``, ``StoppedError``.
    """
    of = coming(path)
    if of is None:
        return None
    conditions, _ = conditions_of(lines, of.columns, places_matter=False)
    with asking(of, token) as connection:
        return counted_there(connection, with_exact_numbers(of.wanted.unordered, of.columns), conditions)


def counted_there(
    connection: Connection[Any], statement: str, conditions: Sequence[Condition]
) -> tuple[int, list[SentLine]]:
    """Have a server count the rows of a statement, and for each condition those it leaves. Raises ``psycopg.Error``."""
    counts = connection.execute(_counting(statement, conditions).encode()).fetchone()
    assert counts is not None
    reached = [int(counts[0]), *map(int, counts[1::2])]
    return reached[0], [
        SentLine(rows_in, rows_out, int(unknown))
        for rows_in, rows_out, unknown in zip(reached[:-1], reached[1:], counts[2::2], strict=True)
    ]


def _counting(inner: str, conditions: Sequence[Condition]) -> str:
    """Return what counts the rows, and for each line those it leaves and those it takes for want of a value."""
    counted, above = ["count(*)"], "TRUE"
    for said, drops in conditions:
        left = f"{above} AND {said} IS {'NOT ' if drops else ''}TRUE"
        unknown = "FALSE" if drops else f"{above} AND {said} IS NULL"
        counted += [f"count(*) FILTER (WHERE {left})", f"count(*) FILTER (WHERE {unknown})"]
        above = left
    return f"SELECT {', '.join(counted)} FROM (\n{inner}\n) AS there"
