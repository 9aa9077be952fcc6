"""Conditions that a column has one of some values: written from them, and read back."""

from __future__ import annotations

from collections.abc import Collection

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.printing import expression_text, name_text
from yardcut.core.values.formatting import formatter, quote_text
from yardcut.core.values.kinds import Kind

ValueSet = frozenset[str | None]
"""Values as the grid shows them; ``None`` is no value."""


def value_literal(kind: Kind, text: str) -> str:
    """Write a value, given as the grid shows it, as a literal that stands beside a column of its kind.

    >>> value_literal(Kind.DATE, '2031-03-01'), value_literal(Kind.NUMBER, '1.5')
    ("'2031-03-01'", '1.5')
    """
    if kind is Kind.BOOLEAN:
        return text.upper()
    return text if kind.is_numeric else quote_text(text)


def literal_node(kind: Kind, text: str) -> t.Expression:
    """Return the tree of :func:`value_literal`."""
    if kind is Kind.BOOLEAN:
        return t.Truth(text == "true")
    if not kind.is_numeric:
        return t.Text(text)
    return t.Negated(t.Number(text[1:])) if text.startswith("-") else t.Number(text)


def condition_text(name: str, kind: Kind, values: Collection[str | None]) -> str:
    """Write the condition that is true for just the rows with one of some values. There must be one.

    >>> condition_text('species', Kind.TEXT, ['ash', 'oak', None])
    "species IN ('ash', 'oak') OR species IS NULL"
    """
    column = name_text(name)
    literals = [value_literal(kind, value) for value in values if value is not None]
    parts = []
    if len(literals) == 1:
        parts.append(f"{column} = {literals[0]}")
    elif literals:
        parts.append(f"{column} IN ({', '.join(literals)})")
    if None in values:
        parts.append(f"{column} IS NULL")
    return " OR ".join(parts)


def values_of(condition: t.Expression, name: str, kind: Kind) -> ValueSet | None:
    """Return the values a condition lets through when it is one about just these of one column; else ``None``."""
    found: set[str | None] = set()
    for part in condition.items if isinstance(condition, t.Or) else (condition,):
        match part:
            case t.IsNull(t.Name(other), False) if other == name:
                found.add(None)
            case t.Comparison("=", t.Name(other), item, False) if other == name:
                found.add(_as_shown(item, kind))
            case t.In(t.Name(other), items, False, False) if other == name:
                found |= {_as_shown(item, kind) for item in items}
            case _:
                return None
    return None if "" in found and kind is not Kind.TEXT else frozenset(found)


def _as_shown(item: t.Expression, kind: Kind) -> str:
    """Return a literal as the grid shows such a value; one of another kind as it is written."""
    match item:
        case t.Text(value):
            return value
        case t.Truth(bool() as truth):
            return str(truth).lower()
        case t.Moment(own, value) if own is kind:
            return formatter(kind)(value)
        case t.Number() | t.Negated(t.Number()) if kind.is_numeric:
            written = expression_text(item)
            return written if kind is Kind.INTEGER else formatter(kind)(float(written))
        case _:
            return ""
