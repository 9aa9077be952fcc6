"""What a grid shows: columns, and pages of cells from wherever they come."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from enum import Enum
from typing import Protocol

from yardcut.core.quick_dataclasses import dataclass

Shapes = dict[Hashable, tuple[tuple[int, ...], tuple[int, ...]]]
"""Small distributions of now and of the source, by a column's id."""


class Mark(Enum):
    """What a line being written would do to a row: leave it, take it, or take it for want of a value."""

    STAYS = " "
    GOES = "╱"
    UNKNOWN = "╲"


@dataclass(frozen=True, slots=True)
class GridColumn:
    """One column's head: its shown name, kind, number (from 1), and marks.

    ``id`` tells it apart from all others, whatever it is called and wherever it stands; those of the source are
    numbers. ``sort`` is the place among the order's keys (0: none) and ``descending`` its direction; ``restricted``
    tells that a working keep or drop looks at the column, ``frozen`` that it stands still at the left, ``left_out``
    that it is shown only because the selected line works with it, ``is_computed`` that its values stand in no source.
    """

    name: str
    kind: str
    number: int
    id: Hashable
    sort: int = 0
    descending: bool = False
    restricted: bool = False
    frozen: bool = False
    left_out: bool = False
    is_computed: bool = False

    @property
    def about(self) -> str:
        """What stands below its name: kind and number, and that a line made it, or that it is left out of the cut."""
        if self.left_out:
            return "left out"
        return f"{self.kind} {self.number}" if isinstance(self.id, int) else f"made {self.kind} {self.number}"

    @property
    def right(self) -> bool:
        """True for columns whose cells stand at the right."""
        return self.kind in ("integer", "number")


def place_of(column: GridColumn | None, columns: Sequence[GridColumn]) -> int | None:
    """Return where a column stands among others: the same under the same name, the same renamed, or one so called."""
    if column is None:
        return None
    same = [place for place, other in enumerate(columns) if other.id == column.id]
    called = next((place for place, other in enumerate(columns) if other.name == column.name), None)
    return called if called in same or not same else same[0]


@dataclass(frozen=True, slots=True)
class GridPage:
    """Some rows: their numbers in the source (from 1), a mark each, and cells by column (``None``: no value).

    ``reasons`` says, in an offcut, why each row is there. ``waiting`` are columns of the table, by number (from 0),
    that must be read whole before the cells made of them are there.
    """

    source_rows: Sequence[int]
    cells: Sequence[Sequence[str | None]]
    marks: Sequence[Mark] = ()
    reasons: Sequence[str] = ()
    waiting: Sequence[int] = ()


class GridSource(Protocol):
    """Where a grid's rows come from."""

    @property
    def row_count(self) -> int:
        """How many rows there are."""

    @property
    def columns(self) -> Sequence[GridColumn]:
        """The columns, in order."""

    @property
    def has_reasons(self) -> bool:
        """True when pages say why each row is there."""

    @property
    def leads_to_source(self) -> bool:
        """True when the rows have numbers in the source; those that were put together have none."""

    def page(self, first: int, end: int, columns: Sequence[int]) -> GridPage:
        """Return rows ``first`` to ``end`` (positions, excluded) of some columns (by place in ``columns``)."""


class PreviewSource:
    """The first rows of a file as the csv module reads them, before the engine is there."""

    has_reasons, leads_to_source = False, True

    def __init__(self, names: Sequence[str], kinds: Sequence[str], rows: Sequence[Sequence[str | None]]) -> None:
        self.columns = [
            GridColumn(name, kind, number + 1, number)
            for number, (name, kind) in enumerate(zip(names, kinds, strict=True))
        ]
        self._rows = rows

    @property
    def row_count(self) -> int:
        """How many rows were read."""
        return len(self._rows)

    def page(self, first: int, end: int, columns: Sequence[int]) -> GridPage:
        """Return some of the rows."""
        rows = self._rows[first:end]
        return GridPage(range(first + 1, first + 1 + len(rows)), [[row[column] for row in rows] for column in columns])
