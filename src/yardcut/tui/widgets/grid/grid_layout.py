"""How wide columns are, and how numbers line up on a common decimal place."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from rich.cells import cell_len

from yardcut.tui.number_marks import calm, marks
from yardcut.tui.text import MISSING, clean, glance
from yardcut.tui.widgets.grid.grid_source import GridColumn

_LEAST, _MOST, _MOST_NAME = 5, 34, 26


@lru_cache(maxsize=1 << 15)
def head_width(column: GridColumn) -> int:
    """Return the cells a column's head needs; one mark more than one stands in the gap behind it."""
    marks = (2 if column.sort else 0) + column.restricted + column.frozen
    name = min(_MOST_NAME, cell_len(clean(column.name)))
    return max(_LEAST, name + max(0, marks - 1), len(column.about))


def cells_width(column: GridColumn, cells: Sequence[str | None]) -> int:
    """Return the cells the values of a column need, from a sample of them."""
    width = 0
    for text in shown_cells(column, cells):
        width = max(width, len(text) if text.isascii() else cell_len(text))
    return min(_MOST, width)


def most_decimals(cells: Sequence[str | None], most: int = 6) -> int:
    """Return the largest number of digits behind the point among some numbers."""
    found = 0
    for cell in cells:
        if cell is not None and "." in cell and "e" not in cell:
            found = max(found, len(cell) - cell.index(".") - 1)
    return min(found, most)


def shown_cells(column: GridColumn, cells: Sequence[str | None]) -> list[str]:
    """Return cells as they are shown: numbers with the user's marks, their points below each other."""
    if column.kind not in ("integer", "number"):
        return [MISSING if cell is None else glance(cell) for cell in cells]
    shown, is_number = marks().shown, column.kind == "number"
    calmed = [cell if cell is None else calm(cell) for cell in cells] if is_number else cells
    decimals = most_decimals(calmed) if is_number else 0
    if is_number and column.is_computed:  # one number of digits
        return [MISSING if cell is None else shown(cell, decimals) for cell in cells]
    return [MISSING if cell is None else shown(cell) + _padding(cell, decimals) for cell in calmed]


def _padding(cell: str, decimals: int) -> str:
    """Return the blanks behind a number that let points stand below each other."""
    if not decimals or "e" in cell:
        return ""
    if "." not in cell:
        return " " * (decimals + 1)
    return " " * max(0, decimals - (len(cell) - cell.index(".") - 1))
