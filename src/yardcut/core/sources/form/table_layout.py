"""Where the table lies in a file: titles above it, and its header. Plain Python."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.form.headers import fits_below, stands_out, typed_columns

MOST_TITLE_ROWS = 100
_MOST_GAPS = 5
_LEAST_TABLE = 2


@dataclass(frozen=True, slots=True)
class Row:
    """Cells of a record, the number of lines that end before it, and whether a blank row stands right above it."""

    cells: list[str]
    lines_before: int = 0
    gap: bool = False

    @property
    def filled(self) -> int:
        """How many cells hold anything."""
        return sum(1 for cell in self.cells if cell.strip())


def usual_width(rows: Sequence[Row]) -> tuple[int, float]:
    """Return the width most rows have, leaving out what may be comments, and the share that has it.

    A few rows of several cells below or between more lines of one cell are a table with titles and notes, when they
    stand together and what is in them looks like a table's.
    """
    widths = Counter(len(row.cells) for row in rows if not row.cells[0].lstrip().startswith("#"))
    widths = widths or Counter(len(row.cells) for row in rows)
    if not widths:
        return 0, 0.0
    # of equals the first one below lines of one cell, which may be titles
    times = max(widths.values())
    likeliest = [width for width, count in widths.items() if count == times]
    width = next((width for width in likeliest if width > 1), 1)
    for other, count in sorted(widths.items(), reverse=True):
        if 1 < other != width and count >= _LEAST_TABLE and _stand_together(rows, other) and not is_typed(rows, width):
            return other, count / widths.total()
    return width, times / widths.total()


def _stand_together(rows: Sequence[Row], width: int) -> bool:
    places = [place for place, row in enumerate(rows) if len(row.cells) == width]
    if places[-1] - places[0] + 1 != len(places):
        return False
    return is_typed(rows, width)


def is_typed(rows: Sequence[Row], width: int) -> bool:
    """Tell whether the rows of a width, but the first, have numbers or days in a column."""
    return bool(typed_columns([row.cells for row in rows if len(row.cells) == width][1:]))


def table_start(rows: Sequence[Row], width: int, marks: str) -> int:
    """Return the place of the row the table begins with: its header, or its first row where it has none."""
    if width <= 1:
        return 0
    start = next(
        (place for place, row in enumerate(rows) if len(row.cells) == width and (row.filled > 1 or width == 2)), 0
    )
    if start > MOST_TITLE_ROWS:
        return 0
    for place in range(start):
        if _is_header_of_ragged_rows(rows[place], rows[place + 1 :], width, marks):
            return place
    if start and _is_header_of_other_width(rows[start - 1], rows[start:], width, marks):
        return start - 1
    for place in _gaps(rows, start):
        below = [row.cells for row in rows[place:] if len(row.cells) == width]
        typed = typed_columns(below[1:], marks)
        block = rows[start:place]
        if stands_out(below[0] if below else [], typed, marks):
            if not any(fits_below(row.cells, typed, marks) for row in block if len(row.cells) == width):
                return place
        elif not typed and below and all(below[0]) and all(row.filled < width for row in block):
            return place
    while start + 2 < len(rows) and _is_title(rows[start], rows[start + 1], rows[start + 1 :], width, marks):
        start += 1
    return start


def _gaps(rows: Sequence[Row], start: int) -> list[int]:
    """Return the last places near the beginning that a blank row stands above, the lowest first."""
    end = min(len(rows) - 1, start + MOST_TITLE_ROWS)
    return [place for place in range(end, start, -1) if rows[place].gap][-_MOST_GAPS:]


def _is_title(row: Row, header: Row, rows: Sequence[Row], width: int, marks: str) -> bool:
    """Tell a sentence that has by chance as many commas as the table from a header row above another."""
    if len(header.cells) != width or not all(cell.strip() for cell in header.cells):
        return False
    sentence = any(cell[:1] == " " for cell in row.cells[1:]) and not any(cell[:1] == " " for cell in header.cells[1:])
    numbered = any(cell.strip().isdecimal() for cell in row.cells)
    begins = row.filled < width and all(cell.strip() for cell in row.cells[: row.filled])
    if not (sentence or numbered or begins):
        return False
    typed = typed_columns([below.cells for below in rows[1:] if len(below.cells) == width], marks)
    return stands_out(header.cells, typed, marks) and not fits_below(row.cells, typed, marks)


def _is_header_of_ragged_rows(row: Row, rows: Sequence[Row], width: int, marks: str) -> bool:
    """Tell the header of rows that end with their last value: as wide as the widest of them, and wider than most."""
    names = len(row.cells)
    if names <= width or row.filled < names or any(cell[:1] == " " for cell in row.cells[1:]):
        return False
    if max(len(each.cells) for each in rows) != names:
        return False
    typed = typed_columns([each.cells for each in rows if len(each.cells) == width], marks)
    return not typed or stands_out(row.cells, typed, marks)


def _is_header_of_other_width(row: Row, rows: Sequence[Row], width: int, marks: str) -> bool:
    """Tell a header that has fewer or more cells than the rows below from a title."""
    cells = row.cells
    while len(cells) > width and not cells[-1].strip():
        cells = cells[:-1]
    if len(cells) < 2 or rows[0].gap or not all(cell.strip() for cell in cells):
        return False
    if any(cell[:1] == " " for cell in cells[1:]) and not any(cell[:1] == " " for cell in rows[0].cells[1:]):
        return False
    below = [each.cells for each in rows if len(each.cells) == width]
    typed = typed_columns(below[1:], marks)
    if typed:
        return fits_below(below[0], typed, marks) and not any(cell.strip().isdecimal() for cell in cells)
    return len(cells) in (width - 1, width + 1)
