"""Conditions at the head of a cut, counted by the server that has the rows: what is here is not looked at."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from yardcut.core.language.meaning.bound import SecondValue
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.sources.elsewhere.coming_tables import asking, coming
from yardcut.core.sources.elsewhere.copying_out import ServerColumn
from yardcut.core.sql.dialects import DIALECTS, quoted_name
from yardcut.core.sql.expression_texts import NotSaidError, Writer, not_said

if TYPE_CHECKING:
    from psycopg import Connection

OWN_NAME = "yardcut "
"""What columns are called that are written beside those of the server."""
Condition = tuple[str, bool]
"""A condition in SQL, and whether the line drops the rows for which it is true."""


@dataclass(frozen=True, slots=True)
class SentLine:
    """What a line that was sent did there: rows that reached it, that it left, that it took for want of a value.

    ``groups`` are the labels of a draw's groups, where they are known.
    """

    rows_in: int
    rows_out: int
    unknown: int
    notes: tuple[str, ...] = ()
    groups: tuple[str, ...] | None = None


def conditions_of(lines: Sequence[BoundLine], columns: Sequence[ServerColumn]) -> list[Condition]:
    """Return the conditions of the lines at the head that a server can count."""
    found: list[Condition] = []
    writer = Writer(DIALECTS["postgresql"], exact_names(columns), {}, not_looked_up)
    for line in lines:
        body = line.bound.body if line.bound is not None and not line.off else None
        if line.error is not None or not isinstance(body, BoundFilter) or body.condition is None:
            break
        try:
            found.append((writer.condition(body.condition), body.drops))
        except NotSaidError:
            break
    return found


def not_looked_up(value: SecondValue) -> str:
    """Refuse what stands in a second table. Raises ``NotSaidError``."""
    raise not_said("what is looked up in a second table", "it stands here")


def exact_names(columns: Sequence[ServerColumn]) -> dict[int, str]:
    """Return the names of columns that hold what is here of those of a server, by their numbers."""
    return {number: _exact_name(number, column) for number, column in enumerate(columns)}


def _exact_name(number: int, column: ServerColumn) -> str:
    return f"{OWN_NAME}{number}" if column.has_odd else column.name


def with_exact_numbers(statement: str, columns: Sequence[ServerColumn]) -> str:
    """Return a statement that has decimals and short numbers beside themselves, as the numbers they are here."""
    beside = "".join(
        f", {_as_number(column)} AS {quoted_name(_exact_name(number, column))}"
        for number, column in enumerate(columns)
        if column.has_odd
    )
    return f"SELECT *{beside} FROM (\n{statement}\n) AS whole"


def _as_number(column: ServerColumn) -> str:
    """Write a number as it is here, where NaN and what is infinite are no values."""
    name = quoted_name(column.name)
    said = f"CAST(CAST({name} AS text) AS double precision)" if column.is_rounded else name
    for odd in ("NaN", "Infinity", "-Infinity"):
        said = f"NULLIF({said}, '{odd}')"
    return said


def counts_of_all(path: Path, lines: Sequence[BoundLine], token: CancelToken) -> tuple[int, list[SentLine]] | None:
    """Ask a server for the rows of a table that is on its way, all of them and those that the first lines leave.

    ``lines`` are bound to the columns of what has come, and hold no value that only its rows gave. Nothing where
    nothing is on its way from the server that ``path`` stands for. Raises ``SourceError``, ``StoppedError``.
    """
    of = coming(path)
    if of is None:
        return None
    conditions = conditions_of(lines, of.columns)
    with asking(of, token) as connection:
        return counted_there(connection, with_exact_numbers(of.wanted.unordered, of.columns), conditions)


def counted_there(
    connection: Connection[Any], statement: str, conditions: Sequence[Condition]
) -> tuple[int, list[SentLine]]:
    """Have a server count the rows of a statement, and for each condition those it leaves. Raises ``psycopg.Error``."""
    counts = asked_for(connection, counting(statement, conditions))
    return counts[0], sent_lines(counts)


def asked_for(connection: Connection[Any], statement: str) -> list[int]:
    """Return the one row of counts that a statement gives. Raises ``psycopg.Error``."""
    counts = connection.execute(statement.encode()).fetchone()
    assert counts is not None
    return [int(count) for count in counts]


def sent_lines(counts: Sequence[int]) -> list[SentLine]:
    """Return what each condition did, of the counts that :func:`counting` gives."""
    reached = [counts[0], *counts[1::2]]
    return [SentLine(*each) for each in zip(reached[:-1], reached[1:], counts[2::2], strict=True)]


def counting(inner: str, conditions: Sequence[Condition]) -> str:
    """Return what counts the rows, and for each line those it leaves and those it takes for want of a value."""
    counted, above = ["count(*)"], "TRUE"
    for said, drops in conditions:
        left = f"{above} AND {said} IS {'NOT ' if drops else ''}TRUE"
        unknown = "FALSE" if drops else f"{above} AND {said} IS NULL"
        counted += [f"count(*) FILTER (WHERE {left})", f"count(*) FILTER (WHERE {unknown})"]
        above = left
    return f"SELECT {', '.join(counted)} FROM (\n{inner}\n) AS there"
