"""A tally along a value: a row for each group, and for each value columns of its measures."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.tally import BoundTally, columns_along
from yardcut.core.table.held_table import HeldTable
from yardcut.core.table.stored_table import FileInfo
from yardcut.core.table.vectors import Vector, taken_from
from yardcut.core.tallying.row_groups import RowGroups
from yardcut.core.values.kinds import Kind

MOST_COLUMNS = 500
"""Along one value: more of them nobody reads, and they are rather groups."""


def across(
    body: BoundTally,
    keys: Sequence[Vector],
    measures: Sequence[Vector],
    cells: RowGroups,
    told: tuple[str, tuple[FileInfo, ...]],
) -> tuple[HeldTable, list[str], tuple[b.Constant | None, ...]]:
    """Return the table, what is to be said of it, and the values it stands along.

    ``cells`` are the groups told by the value it stands along too, that last; ``keys`` and ``measures`` have their
    values, and behind them one for a cell that no row is in. ``told`` are the
    fingerprint and the files of the table. Raises ``ListError`` for too many columns.
    """
    assert body.along is not None
    values = body.sequence or _values(body, cells)
    place_of = {_key(value): place for place, value in enumerate(values)}
    # without groups there is one row, also where no row reaches it, as long as there are columns for it
    rows: dict[tuple[object, ...], int] = {(): 0} if body.sequence and not body.groups else {}
    first: list[int] = [0] * len(rows)
    at: list[tuple[int, int, int]] = []
    outside = 0
    for number, key in enumerate(cells.keys):
        row = rows.setdefault(key[:-1], len(rows))
        if row == len(first):
            first.append(number)
        place = place_of.get(_of_kind(body.along.kind, key[-1]))
        if place is None:
            outside += int(cells.counts[number])
        else:
            at.append((row, place, number))
    where = np.full((len(values), len(rows)), len(cells), np.int64)
    for row, place, number in at:
        where[place, row] = number
    columns = columns_along(body, tuple(values))
    shown = [taken_from(key, np.array(first, np.int64)) for key in keys[: len(body.groups)]]
    by_name = {column.name: vector for column, vector in zip(body.measures, measures, strict=True)}
    shown += [taken_from(by_name[column.name], where[place_of[_key(value)]]) for _, column, value in columns]
    names = [*body.names, *(name for name, _, _ in columns)]
    notes = [f"{outside:,} rows have another value along, and are in no column"] if outside else []
    return HeldTable(told[0], _distinct(names), shown, len(rows), told[1]), notes, tuple(values)


def _values(body: BoundTally, cells: RowGroups) -> list[b.Constant | None]:
    """Return the values of the rows, ascending, and no value last where there is one."""
    assert body.along is not None
    found = {key[-1] for key in cells.keys}
    if len(found) * len(body.measures) > MOST_COLUMNS:
        raise ListError(
            f"along has {len(found):,} values, and makes {len(found) * len(body.measures):,} columns: at most "
            f"{MOST_COLUMNS} can be", mend=Mend("put it behind per, or name the values: along … IN SEQUENCE (…)"),
        )  # fmt: skip
    kind = body.along.kind
    present = sorted(value for value in found if value is not None)
    constants: list[b.Constant | None] = [b.Constant(kind, _constant(kind, value)) for value in present]
    return [*constants, None] if None in found else constants


def _constant(kind: Kind, value: object) -> int | str | bool | Decimal:
    if kind is Kind.NUMBER:
        return Decimal(value)  # type: ignore[arg-type] # a double
    return bool(value) if kind is Kind.BOOLEAN else value  # type: ignore[return-value] # of its kind


def _key(value: b.Constant | None) -> object:
    return None if value is None else float(value.value) if value.kind is Kind.NUMBER else value.value


def _of_kind(kind: Kind, value: object) -> object:
    return bool(value) if kind is Kind.BOOLEAN and value is not None else value


def _distinct(names: Sequence[str]) -> list[str]:
    """Return names of which none stands twice: a value may be called as a group is."""
    found: list[str] = []
    for name in names:
        given, number = name, 2
        while given in found:
            given, number = f"{name}_{number}", number + 1
        found.append(given)
    return found
