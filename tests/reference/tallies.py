"""Tallies: one row per group, in which groups come as they first appear; columns along the values of another."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from reference.functions import as_text, midnight
from reference.kinds import Row, Table, kind_of
from reference.reading import Node, Reader
from reference.values import any_value

NOBODY = Row({}, 0)
"""Stands for a group's rows where there is none: what is asked of it is an aggregate."""


@dataclass
class Part:
    """A measure or a group: its name, and whether it was given one."""

    name: str
    node: Node
    is_named: bool


def tallied(reader: Reader, table: Table) -> Table:
    """Return the table that a tally makes."""
    measures = [_part(reader) for _ in _items(reader)]
    groups = [_part(reader) for _ in _items(reader)] if reader.take("PER") else []
    along = sequence = None
    if reader.take("ALONG"):
        along = _part(reader).node
        if reader.take("IN", "SEQUENCE"):
            reader.need("(")
            sequence = [node[1] for node in reader.several(reader.value)]
            reader.need(")")
    by_group: dict[tuple[Any, ...], list[Row]] = {} if groups else {(): []}
    for row in table.rows:
        by_group.setdefault(tuple(any_value(each.node, row, table) for each in groups), []).append(row)
    columns = [(part.name, kind_of(part.node, table)) for part in groups]
    ways: list[tuple[str, Part, list[Any] | None]] = [(part.name, part, None) for part in measures]
    if along is not None:
        ways = list(_ways_along(measures, _values(along, sequence, table)))
        if not ways and not groups:
            by_group = {}
    columns += [(name, kind_of(part.node, table)) for name, part, _ in ways]
    rows: list[Row] = []
    for key, members in by_group.items():
        cells = list(key)
        for _, part, wanted in ways:
            own = members
            if wanted is not None and along is not None:
                own = [row for row in members if any_value(along, row, table) == wanted[0]]
            cells.append(any_value(part.node, own[0] if own else NOBODY, replace(table, rows=own)))
        rows.append(Row(dict(enumerate(cells)), len(rows) + 1))
    shown = [(name, place) for place, (name, _) in enumerate(columns)]
    kinds = {place: kind for place, (_, kind) in enumerate(columns)}
    return Table(rows, shown, list(shown), kinds, table.today, table.dials)


def _items(reader: Reader) -> Any:
    """Yield as long as there are items, separated by commas."""
    yield None
    while reader.take(","):
        yield None


def _part(reader: Reader) -> Part:
    node = reader.value()
    if reader.take("AS"):
        return Part(reader.token()[1].strip('"'), node, True)
    return Part(_name_of(node), node, False)


def _name_of(node: Node) -> str:
    match node:
        case ("name", name):
            return str(name)
        case ("whole" | "measure", name, (), *_):
            return str(name).lower()
        case ("whole" | "measure", name, (("name", column), *_), *_):
            return f"{str(name).lower()}_{column}"
    return "?"


def _values(along: Node, sequence: list[Any] | None, table: Table) -> list[Any]:
    """Return the values that columns are made for: those named, or those there are, ascending, no value last."""
    if sequence is not None:
        return sequence
    found = {any_value(along, row, table) for row in table.rows}
    there = sorted(found - {None}, key=lambda value: midnight(value) if kind_of(along, table) == "timestamp" else value)
    return [*there, *([None] if None in found else [])]


def _ways_along(measures: list[Part], values: list[Any]) -> Any:
    is_alone = len(measures) == 1 and not measures[0].is_named
    for value in values:
        said = "missing" if value is None else as_text(value) or ""
        for part in measures:
            yield said if is_alone else f"{part.name}_{said}", part, [value]
