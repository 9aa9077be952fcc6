"""Drawing a grid line by line; neighbouring cells of one style become one segment."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence

from rich.cells import cell_len
from rich.segment import Segment
from rich.style import Style
from textual.strip import Strip

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.text import clean, fit
from yardcut.tui.widgets.bar_cells import heights, merged
from yardcut.tui.widgets.grid.grid_layout import shown_cells
from yardcut.tui.widgets.grid.grid_source import GridColumn, GridPage, Mark, Shapes
from yardcut.tui.widgets.grid.viewport import GAP_CELLS

HEAD_LINES = 4
_SHAPE_CELLS = 10


@dataclass(frozen=True, slots=True)
class GridStyles:
    """The styles of a grid's parts, from the theme."""

    base: Style
    name: Style
    cursor_name: Style
    kind: Style
    shape: Style
    rule: Style
    number: Style
    cell: Style
    missing: Style
    gone: Style
    mark: Style
    unknown: Style
    row: Style
    cursor: Style
    reason: Style
    lit: Style


class Line:
    """Gathers one line of text with styles, joining runs of one style."""

    def __init__(self, width_cells: int, base: Style) -> None:
        self._runs: list[tuple[str, Style]] = []
        self._base = base
        self._width = width_cells
        self.size = 0

    def add(self, text: str, style: Style, size_cells: int) -> None:
        """Put text of a known size at the end."""
        if self._runs and self._runs[-1][1] == style:
            self._runs[-1] = (self._runs[-1][0] + text, style)
        else:
            self._runs.append((text, style))
        self.size += size_cells

    def strip(self) -> Strip:
        """Return the line padded to the grid's width."""
        if self.size < self._width:
            self.add(" " * (self._width - self.size), self._base, self._width - self.size)
        return Strip([Segment(text, style) for text, style in self._runs], self.size).crop(0, self._width)


def head_marks(column: GridColumn) -> str:
    """Return what stands behind a column's name: its place in the order, a stroke: restricted, two: it stands still."""
    sort = f"{column.sort}{'↓' if column.descending else '↑'}" if column.sort else ""
    return sort + ("╱" if column.restricted else "") + ("‖" if column.frozen else "")


def head_line(
    number: int, columns: Sequence[tuple[GridColumn, int]], styles: GridStyles, width: int, gutter: str, cursor: int,
    shapes: Shapes,
) -> Strip:  # fmt: skip
    """Draw one of the ``HEAD_LINES`` lines above the rows."""
    line = Line(width, styles.base)
    if number == HEAD_LINES - 1:
        line.add("─" * width, styles.base + styles.rule, width)
        return line.strip()
    line.add(gutter if number == 0 else " " * len(gutter), styles.base + styles.kind, len(gutter))
    for place, (column, size) in enumerate(columns):
        if number == 0:
            marks = head_marks(column)
            plain = styles.kind if column.left_out else styles.name
            style = styles.base + (styles.cursor_name if place == cursor else plain)
            room = min(size, size + GAP_CELLS - 1 - len(marks))
            text = fit(clean(column.name), room, right=column.right)
            text = text if column.right else text.rstrip()
            used = cell_len(text)
            line.add(text, style, used)
            line.add(marks, styles.base + styles.mark, len(marks))
            rest = size + GAP_CELLS - used - len(marks)
            line.add(" " * rest, styles.base, rest)
            continue
        if number == 1:
            line.add(fit(column.about, size, right=column.right), styles.base + styles.kind, size)
        else:
            cells = min(_SHAPE_CELLS, size)
            now, was = shapes.get(column.id, ((), ()))
            shape = heights(merged(now, cells), merged(was, cells))
            line.add(fit(shape, size, right=column.right), styles.base + styles.shape, size)
        line.add(" " * GAP_CELLS, styles.base, GAP_CELLS)
    return line.strip()


@dataclass(frozen=True, slots=True)
class PreparedPage:
    """A page whose cells are cut and padded to their columns."""

    texts: Sequence[Sequence[str]]
    page: GridPage


def prepare(page: GridPage, columns: Sequence[tuple[GridColumn, int]]) -> PreparedPage:
    """Cut and pad the cells of a page."""
    texts = []
    for cells, (column, size) in zip(page.cells, columns, strict=True):
        texts.append([fit(text, size, right=column.right) for text in shown_cells(column, cells)])
    return PreparedPage(texts, page)


def row_line(
    index: int,
    row_position: int,
    prepared: PreparedPage,
    columns: Sequence[tuple[GridColumn, int]],
    styles: GridStyles,
    width: int,
    number_cells: tuple[int, int],
    cursor: tuple[bool, int],
    reason_cells: int,
    lit: str = "",
) -> Strip:
    """Draw one row: mark, position, number in the source, perhaps the reason, and its cells.

    Cells with the text ``lit`` (in folded case) in them stand out.
    """
    page = prepared.page
    on_row, cursor_place = cursor
    mark = page.marks[index] if page.marks else Mark.STAYS
    background = styles.base + styles.row if on_row else styles.base
    line = Line(width, background)
    line.add(mark.value, background + (styles.unknown if mark is Mark.UNKNOWN else styles.mark), 1)
    in_source = f"{page.source_rows[index]:>{number_cells[1]},}" if number_cells[1] else ""
    numbers = f"{row_position + 1:>{number_cells[0]},} {in_source} "
    line.add(numbers, background + styles.number, len(numbers))
    if reason_cells:
        line.add(fit(clean(page.reasons[index]), reason_cells - 1) + " ", background + styles.reason, reason_cells)
    plain = background + (styles.cell if mark is Mark.STAYS else styles.gone)
    for place, (column, size) in enumerate(columns):
        if place:
            line.add(" " * GAP_CELLS, background, GAP_CELLS)
        style = background + styles.number if column.left_out else plain
        if on_row and place == cursor_place:
            style = styles.cursor
        elif page.cells[place][index] is None:
            style = background + styles.missing
        elif lit and lit in (page.cells[place][index] or "").casefold():
            style = background + styles.lit
        line.add(prepared.texts[place][index], style, size)
    return line.strip()


def total_line(
    columns: Sequence[tuple[GridColumn, int]],
    styles: GridStyles,
    width: int,
    gutter: str,
    totals: Mapping[Hashable, str],
) -> Strip:
    """Draw what the rows come to all together, in a strip of its own."""
    line = Line(width, styles.row)
    line.add(gutter, styles.row + styles.kind, len(gutter))
    for place, (column, size) in enumerate(columns):
        if place:
            line.add(" " * GAP_CELLS, styles.row, GAP_CELLS)
        line.add(fit(totals.get(column.id, ""), size, right=column.right), styles.row + styles.name, size)
    return line.strip()
