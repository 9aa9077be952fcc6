"""What a grid shows: columns, and pages of cells from wherever they come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

Shapes = dict[int, tuple[tuple[int, ...], tuple[int, ...]]]
"""Small distributions of now and of the source, by a column's number in the source (from 1)."""


@dataclass(frozen=True, slots=True)
class GridColumn:
    """One column's head: its shown name, kind, number in the source (from 1), and marks.

    ``sort`` is the place among the order's keys (0: none) and ``descending`` its direction; ``restricted`` tells that
    a working keep or drop looks at the column.
    """

    name: str
    kind: str
    number: int
    sort: int = 0
    descending: bool = False
    restricted: bool = False

    @property
    def right(self) -> bool:
        """True for columns whose cells stand at the right."""
        return self.kind in ("integer", "number")


@dataclass(frozen=True, slots=True)
class GridPage:
    """Some rows: their numbers in the source (from 1), a mark each, and cells by column (``None``: no value).

    A mark is "" for a row that stays, "goes" for one a line being written would take, "unknown" for one it would take
    for want of a value. ``reasons`` says, in an offcut, why each row is there. ``waiting`` are columns, by number in
    the source (from 1), whose cells are not there before the whole column is read.
    """

    source_rows: Sequence[int]
    cells: Sequence[Sequence[str | None]]
    marks: Sequence[str] = ()
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

    def page(self, first: int, end: int, columns: Sequence[int]) -> GridPage:
        """Return rows ``first`` to ``end`` (positions, excluded) of some columns (by place in ``columns``)."""


class PreviewSource:
    """The first rows of a file as the csv module reads them, before the engine is there."""

    has_reasons = False

    def __init__(self, names: Sequence[str], kinds: Sequence[str], rows: Sequence[Sequence[str | None]]) -> None:
        self.columns = [
            GridColumn(name, kind, number) for number, (name, kind) in enumerate(zip(names, kinds, strict=True), 1)
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
