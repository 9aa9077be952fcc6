"""How wide columns are, and how numbers line up on a common decimal place."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from rich.cells import cell_len

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
    decimals = most_decimals(cells) if column.kind == "number" else 0
    width = 0
    for cell in cells:
        text = MISSING if cell is None else aligned(glance(cell), decimals)
        width = max(width, len(text) if text.isascii() else cell_len(text))
    return min(_MOST, width)


def most_decimals(cells: Sequence[str | None], most: int = 6) -> int:
    """Return the largest number of digits behind the point among some numbers."""
    found = 0
    for cell in cells:
        if cell is not None and "." in cell and "e" not in cell:
            found = max(found, len(cell) - cell.index(".") - 1)
    return min(found, most)


def aligned(cell: str, decimals: int) -> str:
    """Pad a number at its right so that points stand below each other."""
    if not decimals or "e" in cell:
        return cell
    if "." not in cell:
        return cell + " " * (decimals + 1)
    return cell + " " * max(0, decimals - (len(cell) - cell.index(".") - 1))
