"""Where databases differ in how the standard is written."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from yardcut.core.values.kinds import Kind

DialectName = Literal["postgresql", "sqlite"]


@dataclass(frozen=True, slots=True)
class Dialect:
    """One database's way of writing.

    ``code_points`` is written behind a text that is compared by code point; ``types`` are the names of kinds. Days are
    texts in ISO 8601 where ``days_are_texts``.
    """

    name: str
    code_points: str
    types: dict[Kind, str]
    days_are_texts: bool


DIALECTS: dict[str, Dialect] = {
    "postgresql": Dialect(
        "postgresql", ' COLLATE "C"',
        {
            Kind.TEXT: "text", Kind.INTEGER: "bigint", Kind.NUMBER: "double precision", Kind.BOOLEAN: "boolean",
            Kind.DATE: "date", Kind.TIMESTAMP: "timestamp", Kind.INSTANT: "timestamptz", Kind.TIME: "time",
        },
        days_are_texts=False,
    ),
    "sqlite": Dialect(
        "sqlite", "",
        {
            Kind.TEXT: "TEXT", Kind.INTEGER: "INTEGER", Kind.NUMBER: "REAL", Kind.BOOLEAN: "INTEGER", Kind.DATE: "TEXT",
            Kind.TIMESTAMP: "TEXT", Kind.INSTANT: "TEXT", Kind.TIME: "TEXT",
        },
        days_are_texts=True,
    ),
}  # fmt: skip


def quoted_name(name: str) -> str:
    """Write a name of the database (a delimited identifier, ISO/IEC 9075-2, 5.4)."""
    return '"' + name.replace('"', '""') + '"'


def quoted_text(text: str) -> str:
    """Write a text literal (ISO/IEC 9075-2, 5.3)."""
    return "'" + text.replace("'", "''") + "'"
