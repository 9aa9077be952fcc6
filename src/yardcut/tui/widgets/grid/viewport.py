"""Which rows and columns a grid shows, and where its cursor is: arithmetic, no drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.quick_dataclasses import dataclass

GAP_CELLS = 2


@dataclass(frozen=True, slots=True)
class Viewport:
    """Cursor and corner of a grid. Rows are positions in the table, columns places among the shown columns."""

    row_position: int = 0
    column: int = 0
    top: int = 0
    left: int = 0

    def moved(
        self, row_position: int, column: int, rows: int, widths: Sequence[int], height: int, room_cells: int,
        frozen: Sequence[int] = (),
    ) -> Viewport:  # fmt: skip
        """Return the viewport with the cursor elsewhere, scrolled as little as shows it."""
        row_position = max(0, min(row_position, rows - 1))
        column = max(0, min(column, len(widths) - 1))
        top = min(self.top, row_position)
        if height > 0 and row_position >= top + height:
            top = row_position - height + 1
        top = max(0, min(top, max(0, rows - height)))
        room_cells -= sum(widths[place] + GAP_CELLS for place in frozen)
        left = self.left
        if column not in frozen:
            left = max(min(left, column), leftmost(widths, column, room_cells, frozen))
        if widths:  # no room at the right stays empty while columns are hidden at the left
            left = min(left, leftmost(widths, len(widths) - 1, room_cells, frozen))
        return Viewport(row_position, column, top, max(0, left))

    def scrolled(self, by: int, rows: int, height: int) -> Viewport:
        """Return the viewport some rows further; the cursor comes along where it would leave the screen."""
        top = max(0, min(self.top + by, max(0, rows - height)))
        row_position = max(top, min(self.row_position, top + max(0, height - 1)))
        return replace(self, top=top, row_position=max(0, min(row_position, rows - 1)))


def frozen_shown(places: Sequence[int], widths: Sequence[int], room_cells: int) -> list[int]:
    """Return those columns that stand still for which there is room, with half of it left for the others."""
    found: list[int] = []
    used = 0
    for place in places:
        used += widths[place] + GAP_CELLS
        if 2 * used > room_cells:
            break
        found.append(place)
    return found


def leftmost(widths: Sequence[int], column: int, room_cells: int, frozen: Sequence[int] = ()) -> int:
    """Return the first column on screen when a column just fits at the right; itself when it does not fit at all.

    Those that stand still take no room among the others.
    """
    left, used = column, widths[column] if column < len(widths) else 0
    while left > 0:
        needed = 0 if left - 1 in frozen else GAP_CELLS + widths[left - 1]
        if used + needed > room_cells:
            break
        left -= 1
        used += needed
    return left


def shown_columns(
    widths: Sequence[int], left: int, room_cells: int, frozen: Sequence[int] = ()
) -> list[tuple[int, int, int]]:
    """Return (column, x, width) for the columns on screen, ``frozen`` ones first; the last may be cut at the edge."""
    found: list[tuple[int, int, int]] = []
    x = 0
    for column in (*frozen, *range(left, len(widths))):
        if column in frozen and len(found) >= len(frozen):
            continue
        if x >= room_cells:
            break
        found.append((column, x, min(widths[column], room_cells - x)))
        x += widths[column] + GAP_CELLS
    return found


def column_at(widths: Sequence[int], left: int, x: int, room_cells: int, frozen: Sequence[int] = ()) -> int | None:
    """Return the column at a horizontal place, if there is one."""
    for column, start, width in shown_columns(widths, left, room_cells, frozen):
        if start <= x < start + width + GAP_CELLS:
            return column
    return None
