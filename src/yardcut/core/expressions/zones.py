"""The zone whose clock shows the instants of a value."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind


def zone_of(value: b.BoundValue, table: Table) -> str:
    """Return the zone whose clock shows a value: that of all the columns its instants come from, if it is one."""
    zones = _zones(value, table)
    return zones.pop() if len(zones) == 1 else ""


def _zones(value: b.BoundValue, table: Table) -> set[str]:
    match unwrapped(value):
        case b.ColumnValue(column):
            return {table.columns[column].info.zone}
        case b.NoValue():
            return set()
        case b.Case(branches, otherwise):
            sources = [*(then for _, then in branches), otherwise]
        case b.Call(arguments=arguments):
            sources = [part for part in arguments if part.kind is Kind.INSTANT]
        case _:
            sources = []
    return set[str]().union(*(_zones(part, table) for part in sources)) if sources else {""}


def on_the_clock(vector: Vector, value: b.BoundValue, table: Table) -> Vector:
    """Return the vector of a value with the zone whose clock shows it, if it holds instants."""
    if vector.kind is not Kind.INSTANT or not isinstance(vector, NumericVector):
        return vector
    return replace(vector, zone=zone_of(value, table))
