"""Which rows and columns a grid shows, and where its cursor is: arithmetic, no drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

GAP_CELLS = 2


@dataclass(frozen=True, slots=True)
class Viewport:
    """Cursor and corner of a grid. Rows are positions in the table, columns places among the shown columns."""

    row_position: int = 0
    column: int = 0
    top: int = 0
    left: int = 0

    def moved(
        self, row_position: int, column: int, rows: int, widths: Sequence[int], height: int, room_cells: int
    ) -> Viewport:
        """Return the viewport with the cursor elsewhere, scrolled as little as shows it."""
        row_position = max(0, min(row_position, rows - 1))
        column = max(0, min(column, len(widths) - 1))
        top = min(self.top, row_position)
        if height > 0 and row_position >= top + height:
            top = row_position - height + 1
        top = max(0, min(top, max(0, rows - height)))
        left = min(self.left, column)
        while left < column and not fits(widths, left, column, room_cells):
            left += 1
        return Viewport(row_position, column, top, left)

    def scrolled(self, by: int, rows: int, height: int) -> Viewport:
        """Return the viewport some rows further; the cursor comes along where it would leave the screen."""
        top = max(0, min(self.top + by, max(0, rows - height)))
        row_position = max(top, min(self.row_position, top + max(0, height - 1)))
        return replace(self, top=top, row_position=max(0, min(row_position, rows - 1)))


def fits(widths: Sequence[int], left: int, column: int, room_cells: int) -> bool:
    """Tell whether a column is whole on screen when ``left`` is the first one."""
    return sum(widths[left : column + 1]) + GAP_CELLS * (column - left) <= room_cells


def shown_columns(widths: Sequence[int], left: int, room_cells: int) -> list[tuple[int, int, int]]:
    """Return (column, x, width) for the columns on screen; the last one may be cut at the edge."""
    found = []
    x = 0
    for column in range(left, len(widths)):
        if x >= room_cells:
            break
        found.append((column, x, min(widths[column], room_cells - x)))
        x += widths[column] + GAP_CELLS
    return found


def column_at(widths: Sequence[int], left: int, x: int, room_cells: int) -> int | None:
    """Return the column at a horizontal place, if there is one."""
    for column, start, width in shown_columns(widths, left, room_cells):
        if start <= x < start + width + GAP_CELLS:
            return column
    return None
