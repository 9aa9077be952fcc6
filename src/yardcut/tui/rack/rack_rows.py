"""The rows of the rack: columns in the cut, those left out, and items that are switched off."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.column_lists import ColumnList, item_name
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.syntax.printing import item_text
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class RackRow:
    """One column.

    ``column`` has the name it goes by above the list's line; ``new_name`` what the line calls it, ``by`` the pattern
    it came by. ``off`` is the item of one that is switched off.
    """

    column: ShownColumn
    in_cut: bool
    new_name: str = ""
    by: str = ""
    off: t.OffItem | None = None

    @property
    def number(self) -> int:
        """Its number, from 1."""
        return self.column.number


SORTS = ("the cut's order", "name", "kind", "missing", "number")


def rack_rows(wanted: ColumnList, sort: str, missing: Mapping[int, int]) -> list[RackRow]:
    """Return the rows, those in the cut first; in another order than the cut's where one is asked for."""
    above = {column.number: column for column in (*reversed(wanted.scope.known), *reversed(wanted.scope.shown))}
    chosen = [
        RackRow(above[each.column.number], True, each.new_name or "", item_name(each.item)) for each in wanted.chosen
    ]
    off = _off_by_number(wanted)
    rest = [RackRow(column, False, off=off.get(column.number)) for column in wanted.rest]
    keys: dict[str, Callable[[RackRow], Any]] = {
        "name": lambda row: (row.new_name or row.column.name).casefold(),
        "kind": lambda row: row.column.kind.value,
        "missing": lambda row: -missing.get(row.number, -1),
        "number": lambda row: row.number,
    }
    if sort in keys:
        chosen.sort(key=keys[sort])
        rest.sort(key=keys[sort])
    return [*chosen, *rest]


def _off_by_number(wanted: ColumnList) -> dict[int, t.OffItem]:
    found: dict[int, t.OffItem] = {}
    for item in wanted.off_items:
        if isinstance(item.item, t.OneColumn):
            column = item.item.column
            number = column.number if isinstance(column, t.ColumnNumber) else None
            named = wanted.scope.find(column.name) if isinstance(column, t.Name) else None
            found[named.number if named is not None else number or 0] = item
    return found


def off_text(row: RackRow) -> str:
    """Return how the item of a row that is off is written."""
    return "" if row.off is None else item_text(row.off)
