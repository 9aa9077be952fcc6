"""What a database writes its own way: data, and the forms of functions and tests where they differ.

A form is a pattern whose ``{0}``, ``{1}`` … are values that are written already. It is found by the name of a function
or test, first with the kind of its value behind it ("FLOOR integer"). What has no form cannot be said.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class Dialect:
    """One database's way of writing.

    ``code_points`` is written behind a text that is compared by code point; ``types`` are the names of kinds. Days are
    texts in ISO 8601 where ``days_are_texts``. ``forms`` are its patterns, and ``why_not`` the reasons why some are
    missing. ``pattern`` makes of a LIKE pattern and its escape character what stands for {1} and {2} of that form.
    """

    name: str
    code_points: str
    types: Mapping[Kind, str]
    days_are_texts: bool
    forms: Mapping[str, str]
    why_not: Mapping[str, str] = field(default_factory=dict)
    pattern: Callable[[str, str], tuple[str, str]] = lambda pattern, escape: (quoted_text(pattern), quoted_text(escape))

    def form(self, name: str, kind: Kind | None = None) -> str | None:
        """Return the pattern of a function or test, ``None`` where it cannot be said."""
        return self.forms.get(f"{name} {kind}", self.forms.get(name))


DIALECTS: dict[str, Dialect] = {}
"""The dialects that SQL can be written in, by their names."""


def quoted_name(name: str) -> str:
    """Write a name of the database (a delimited identifier, ISO/IEC 9075-2, 5.4).

    >>> print(quoted_name('7" planks'))
    "7"" planks"
    """
    return '"' + name.replace('"', '""') + '"'


def quoted_text(text: str) -> str:
    """Write a text literal (ISO/IEC 9075-2, 5.3).

    >>> print(quoted_text("it's"))
    'it''s'
    """
    return "'" + text.replace("'", "''") + "'"


_EVERYWHERE = {
    "||": "({0} || {1})",
    "ABS": "ABS({0})",
    "FLOOR integer": "{0}",
    "CEILING integer": "{0}",
    "MOD integer": "({0} % NULLIF({1}, 0))",
    "STARTS WITH VALUE": "(substr({0}, 1, length({1})) = {1})",
    **{name: f"{name}({{0}})" for name in ("COUNT", "AVG", "SUM", "MIN", "MAX")},
    "COUNT DISTINCT": "COUNT(DISTINCT {0})",
}
"""Forms that all databases have."""

_STANDARD = {
    **_EVERYWHERE,
    "CHAR_LENGTH": "CHAR_LENGTH({0})",
    "POSITION": "POSITION({0} IN {1})",
    "SUBSTRING 2": "SUBSTRING({0} FROM {1})",
    "SUBSTRING 3": "SUBSTRING({0} FROM {1} FOR {2})",
    "UPPER": "UPPER({0})",
    "LOWER": "LOWER({0})",
    **{f"TRIM {side} 1": f"TRIM({side} ' ' FROM {{0}})" for side in ("BOTH", "LEADING", "TRAILING")},
    **{f"TRIM {side} 2": f"TRIM({side} {{1}} FROM {{0}})" for side in ("BOTH", "LEADING", "TRAILING")},
    "SQRT": "(CASE WHEN {0} >= 0 THEN SQRT({0}) END)",
    "FLOOR": "FLOOR({0})",
    "CEILING": "CEILING({0})",
    "GREATEST": "(CASE WHEN {missing} THEN NULL ELSE GREATEST({values}) END)",
    "LEAST": "(CASE WHEN {missing} THEN NULL ELSE LEAST({values}) END)",
    "ADD UNITS date": "({0} + {1})",
    "ADD MONTHS date": "CAST({0} + INTERVAL '{bare} months' AS date)",
    "DAYS BETWEEN": "({0} - {1})",
    "CAST integer number": "CAST({0} AS double precision)",
    "CAST integer text": "CAST({0} AS text)",
    "CAST number integer": "CAST(TRUNC({0}) AS bigint)",
    "CAST date text": "TO_CHAR({0}, 'YYYY-MM-DD')",
    "CAST timestamp date": "CAST({0} AS date)",
    **{
        f"EXTRACT {field}": f"CAST(EXTRACT({field} FROM {{0}}) AS integer)"
        for field in ("YEAR", "QUARTER", "MONTH", "WEEK", "DAY", "HOUR", "MINUTE")
    },
    "EXTRACT WEEKDAY": "CAST(EXTRACT(ISODOW FROM {0}) AS integer)",
    "EXTRACT SECOND": "CAST(EXTRACT(SECOND FROM {0}) AS double precision)",
    "IS DISTINCT FROM": "({0} IS DISTINCT FROM {1})",
    "BETWEEN SYMMETRIC": "({0} BETWEEN SYMMETRIC {1} AND {2})",
    "LIKE": "({0} LIKE {1} ESCAPE {2})",
    "CONTAINS": "(POSITION({1} IN {0}) > 0)",
    "STARTS WITH": "(LEFT({0}, {2}) = {1})",
    "ENDS WITH": "(RIGHT({0}, {2}) = {1})",
    "ENDS WITH VALUE": "(RIGHT({0}, length({1})) = {1})",
    "QUANTILE": "PERCENTILE_CONT({share}) WITHIN GROUP (ORDER BY {0})",
    "MEDIAN": "PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY {0})",
}
_TRIMS = {"BOTH": "trim", "LEADING": "ltrim", "TRAILING": "rtrim"}
_FIELDS = {"YEAR": "%Y", "MONTH": "%m", "DAY": "%d", "HOUR": "%H", "MINUTE": "%M"}
_SQLITE = {
    **_EVERYWHERE,
    "CHAR_LENGTH": "length({0})",
    "POSITION": "instr({1}, {0})",
    "SUBSTRING 2": "substr({0}, {1})",
    "SUBSTRING 3": "substr({0}, {1}, {2})",
    **{f"TRIM {side} 1": f"{name}({{0}}, ' ')" for side, name in _TRIMS.items()},
    **{f"TRIM {side} 2": f"{name}({{0}}, {{1}})" for side, name in _TRIMS.items()},
    "GREATEST": "max({values})",
    "LEAST": "min({values})",
    "ADD UNITS date": "date({0}, '{bare} days')",
    "DAYS BETWEEN": "CAST(julianday({0}) - julianday({1}) AS INTEGER)",
    "CAST integer number": "CAST({0} AS REAL)",
    "CAST integer text": "CAST({0} AS TEXT)",
    "CAST number integer": "CAST({0} AS INTEGER)",
    "CAST date text": "{0}",
    "CAST timestamp date": "date({0})",
    **{f"EXTRACT {field}": f"CAST(strftime('{part}', {{0}}) AS INTEGER)" for field, part in _FIELDS.items()},
    "EXTRACT QUARTER": "((CAST(strftime('%m', {0}) AS INTEGER) + 2) / 3)",
    "EXTRACT WEEKDAY": "((CAST(strftime('%w', {0}) AS INTEGER) + 6) % 7 + 1)",
    "IS DISTINCT FROM": "({0} IS NOT {1})",
    "BETWEEN SYMMETRIC": "({0} BETWEEN min({1}, {2}) AND max({1}, {2}))",
    "LIKE": "({0} GLOB {1})",
    "CONTAINS": "(instr({0}, {1}) > 0)",
    "STARTS WITH": "(substr({0}, 1, {2}) = {1})",
    "ENDS WITH": "(substr({0}, -{2}) = {1})",
    # a negative start counts from the right, and none of 0 means all
    "ENDS WITH VALUE": "(substr({0}, length({0}) - length({1}) + 1) = {1})",
}


def _as_glob(pattern: str, escape: str) -> tuple[str, str]:
    """Return a LIKE pattern as one of GLOB, which minds capitals."""
    found, at = "", 0
    while at < len(pattern):
        char = pattern[at]
        if char == escape and escape:
            at += 1
            char = pattern[at]
            found += f"[{char}]" if char in "*?[" else char
        else:
            found += {"%": "*", "_": "?"}.get(char) or (f"[{char}]" if char in "*?[" else char)
        at += 1
    return quoted_text(found), ""


DIALECTS["postgresql"] = Dialect(
    "postgresql", ' COLLATE "C"',
    {
        Kind.TEXT: "text", Kind.INTEGER: "bigint", Kind.NUMBER: "double precision", Kind.BOOLEAN: "boolean",
        Kind.DATE: "date", Kind.TIMESTAMP: "timestamp", Kind.INSTANT: "timestamptz", Kind.TIME: "time",
    },
    days_are_texts=False, forms=_STANDARD,
)  # fmt: skip
DIALECTS["sqlite"] = Dialect(
    "sqlite", "",
    {
        Kind.TEXT: "TEXT", Kind.INTEGER: "INTEGER", Kind.NUMBER: "REAL", Kind.BOOLEAN: "INTEGER", Kind.DATE: "TEXT",
        Kind.TIMESTAMP: "TEXT", Kind.INSTANT: "TEXT", Kind.TIME: "TEXT",
    },
    days_are_texts=True, forms=_SQLITE,
    why_not=dict.fromkeys(("QUANTILE", "MEDIAN", "VAR_SAMP", "STDDEV_SAMP"), "sqlite has none"), pattern=_as_glob,
)  # fmt: skip
