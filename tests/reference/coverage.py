"""What random lines have covered: what stands at which place of which form, of which kind, and whether a value was missing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from reference.kinds import Table, kind_of
from reference.reading import Node, Reader
from reference.values import any_value

Seen = tuple[str, int, str, str, bool]
"""A form, the number of its part, the part's kind, its shape, and whether it had no value in some row."""
_LITERAL, _COLUMN = ("literal", "moment", "CURRENT_DATE"), ("name", "number of column", "dial")


def seen_in(line: str, table: Table) -> Iterator[Seen]:
    """Yield what a make, keep or drop line has at the places of its forms."""
    reader = Reader(line, table.dials)
    verb = reader.token()[1].lower()
    if verb == "make":
        reader.token()
        reader.need("=")
    yield from _within(reader.condition(), table)


def _within(node: Any, table: Table) -> Iterator[Seen]:
    if not (isinstance(node, tuple) and node):
        return
    if isinstance(node[0], str):
        for number, part in enumerate(_parts(node)):
            yield _form(node), number, kind_of(part, table), _shape(part), _is_missing(part, table)
    for part in node:
        yield from _within(part, table)


def _form(node: Node) -> str:
    return (
        " ".join(str(part) for part in node[:2] if isinstance(part, str) and part)
        if node[0] not in ("literal", "name")
        else node[0]
    )


def _parts(node: Node) -> list[Node]:
    """Return the values a form works on."""
    match node:
        case ("call" | "whole", _, arguments):
            return list(arguments)
        case ("compare" | "math", _, left, right):
            return [left, right]
        case ("between", value, low, high, _):
            return [value, low, high]
        case ("in", value, items, _):
            return [value, *items]
        case ("like" | "part", *parts):
            return [part for part in parts if isinstance(part, tuple)]
        case ("distinct", left, right, _):
            return [left, right]
        case ("cast" | "minus" | "bracket" | "is" | "not" | "not piece", inner, *_):
            return [inner]
        case ("extract", _, inner) | ("trim", _, _, inner):
            return [inner]
        case ("case", subject, branches, otherwise):
            return [
                part for part in (subject, *(each for pair in branches for each in pair), otherwise) if part is not None
            ]
    return []


def _shape(node: Node) -> str:
    while node[0] == "bracket":
        node = node[1]
    return "literal" if node[0] in _LITERAL else "column" if node[0] in _COLUMN else "computed"


def _is_missing(node: Node, table: Table) -> bool:
    if node[0] in ("interval", "off", "quantified"):
        return False
    return any(any_value(node, row, table) is None for row in table.rows)
