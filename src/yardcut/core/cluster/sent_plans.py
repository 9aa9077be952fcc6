"""Plans and states as bytes: of what a plan holds for each row, only what belongs to the rows at work.

A table's own dictionaries are sent as the numbers of their columns, since whoever works has the same table.
"""

from __future__ import annotations

import pickle
from collections.abc import Sequence
from dataclasses import fields, is_dataclass
from io import BytesIO
from typing import Any

import numpy as np

from yardcut.core.language.meaning.bound_known import ROWS_AN_ITEM
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import Dictionary

_OF_ROWS, _WORDS = "of rows", "words"
_PROTOCOL = 5


class NotSentError(Exception):
    """A plan holds what only this process has, such as an open table."""


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """A part of an array of ``length`` items: those from ``start`` on."""

    length: int
    start: int
    items: Array

    def whole(self) -> Array:
        """Return an array as long as that which this is a part of; only what was sent takes memory."""
        found = np.zeros(self.length, self.items.dtype)
        found[self.start : self.start + len(self.items)] = self.items
        return found


@dataclass(frozen=True, slots=True, eq=False)
class PackedPlan:
    """A plan as bytes, and beside it the arrays that hold something for each row, each with the rows an item has."""

    content: bytes
    arrays: tuple[tuple[Array, int], ...]

    def pieces(self, first_row: int, end_row: int) -> tuple[Piece, ...]:
        """Return what belongs to some rows; the first is a multiple of 8."""
        return tuple(
            Piece(len(array), first_row // rows, np.array(array[first_row // rows : -(-end_row // rows)]))
            for array, rows in self.arrays
        )


def pack_plan(plan: Round[Any, Any], table: Table) -> PackedPlan:
    """Return a plan as it is sent. Raises ``NotSentError``."""
    target = BytesIO()
    packing = _PlanPickler(target, table, plan.numbered_by())
    packing.dump(plan)
    return PackedPlan(target.getvalue(), tuple(packing.arrays))


def pack(value: object, table: Table) -> bytes:
    """Return anything else as bytes. Raises ``NotSentError``."""
    target = BytesIO()
    _Pickler(target, table).dump(value)
    return target.getvalue()


def unpack(content: bytes, table: Table, pieces: Sequence[Piece] = ()) -> Any:
    """Return what was packed; arrays of rows as long as they were, with the ``pieces`` in their places."""
    return _Unpickler(BytesIO(content), table, [piece.whole() for piece in pieces]).load()


class _Pickler(pickle.Pickler):
    def __init__(self, target: BytesIO, table: Table) -> None:
        super().__init__(target, _PROTOCOL)
        self._table = table

    def persistent_id(self, value: Any) -> tuple[str, int] | None:
        if isinstance(value, Dictionary):
            for column in self._table.columns:
                if column.__dict__.get("dictionary") is value:  # one that was looked at, as whoever has it must have
                    return _WORDS, column.number
        return None

    def reducer_override(self, value: Any) -> Any:
        if hasattr(value, "leads_to_source") and not isinstance(value, type):
            raise NotSentError
        if isinstance(value, Dictionary):
            return Dictionary, (value.texts,)
        return NotImplemented


class _PlanPickler(_Pickler):
    def __init__(self, target: BytesIO, table: Table, numbered_by: str) -> None:
        super().__init__(target, table)
        self._mark = numbered_by
        self.arrays: list[tuple[Array, int]] = []
        self._places: dict[int, int] = {}

    def persistent_id(self, value: Any) -> tuple[str, int] | None:
        place = self._places.get(id(value)) if isinstance(value, np.ndarray) else None
        return super().persistent_id(value) if place is None else (_OF_ROWS, place)

    def reducer_override(self, value: Any) -> Any:
        # the fields are pickled next: by then their arrays are known
        if is_dataclass(value) and not isinstance(value, type):
            for part in fields(value):
                rows = part.metadata.get(self._mark)
                array = None if rows is None else getattr(value, part.name)
                if isinstance(array, np.ndarray) and rows and self._is_of_rows(array, rows):
                    self._places[id(array)] = len(self.arrays)
                    self.arrays.append((array, rows))
        return super().reducer_override(value)

    def _is_of_rows(self, array: Array, rows_an_item: int) -> bool:
        is_long_enough = self._mark != ROWS_AN_ITEM or len(array) == -(-self._table.rows // rows_an_item)
        return id(array) not in self._places and is_long_enough


class _Unpickler(pickle.Unpickler):
    def __init__(self, source: BytesIO, table: Table, arrays: Sequence[Array]) -> None:
        super().__init__(source)
        self._table, self._arrays = table, arrays

    def persistent_load(self, known: tuple[str, int]) -> Any:
        kind, number = known
        return self._arrays[number] if kind == _OF_ROWS else self._table.columns[number].dictionary
