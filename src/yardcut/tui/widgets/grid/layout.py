"""How wide columns are, and how numbers line up on a common decimal place."""

from __future__ import annotations

from collections.abc import Sequence

from rich.cells import cell_len

from yardcut.tui.text import MISSING, clean
from yardcut.tui.widgets.grid.model import GridColumn, GridPage

_LEAST, _MOST, _MOST_NAME = 5, 34, 26


def column_widths(columns: Sequence[GridColumn], sample: GridPage | None) -> list[int]:
    """Return a width in cells for each column, from its head and a sample page of all columns."""
    widths = []
    for place, column in enumerate(columns):
        head = min(_MOST_NAME, cell_len(clean(column.name)) + (3 if column.sort else 0) + column.restricted * 2)
        width = max(_LEAST, head, len(f"{column.kind} {column.number}"))
        if sample is not None and place < len(sample.cells):
            cells = sample.cells[place]
            decimals = most_decimals(cells) if column.kind == "number" else 0
            for cell in cells:
                text = MISSING if cell is None else aligned(clean(cell), decimals) if decimals else clean(cell)
                width = max(width, min(_MOST, len(text) if text.isascii() else cell_len(text)))
        widths.append(width)
    return widths


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
