"""The grid: a table of any number of rows on the Line API."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import fields, replace

from rich.cells import cell_len
from rich.style import Style
from textual import events
from textual.message import Message
from textual.strip import Strip
from textual.widget import Widget

from yardcut.tui.net import drawn
from yardcut.tui.part_styles import part_style
from yardcut.tui.text import clean
from yardcut.tui.widgets.grid.frozen import Frozen
from yardcut.tui.widgets.grid.grid_beside import Beside
from yardcut.tui.widgets.grid.grid_layout import cells_width, head_width
from yardcut.tui.widgets.grid.grid_lines import (
    HEAD_LINES,
    GridStyles,
    PreparedPage,
    head_line,
    prepare,
    row_line,
    total_line,
)
from yardcut.tui.widgets.grid.grid_source import GridColumn, GridPage, GridSource, PreviewSource, Shapes, place_of
from yardcut.tui.widgets.grid.viewport import Viewport, column_at, frozen_shown, shown_columns

_WHEEL_ROWS = 3
_LEAST_REASON_CELLS, _REASON_CELLS = 20, 44
_REASONS_SHARE = 3
"""Of the width, at most; the reason of the row under the cursor stands in full on the gauge."""
_SAMPLE_ROWS, _SAMPLE_ROWS_OF_MANY, _MANY_COLUMNS = 60, 8, 300


class Grid(Widget, can_focus=True):
    """Shows a :class:`GridSource`; only the cells on screen are ever read."""

    class Moved(Message):
        """The cursor stands elsewhere."""

        def __init__(self, grid: Grid) -> None:
            super().__init__()
            self.grid = grid

        @property
        def control(self) -> Grid:
            """The grid it moved in."""
            return self.grid

    class HeadClicked(Message):
        """The mouse clicked the head of the column the cursor stands in now."""

    class Waiting(Message):
        """Rows (from 1) of columns (from 0), by their numbers in the source, are on screen and not read yet."""

        def __init__(self, columns: Sequence[int], rows: Sequence[int]) -> None:
            super().__init__()
            self.columns, self.rows = tuple(columns), tuple(rows)

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._source: GridSource = PreviewSource([], [], [])
        self._widths: list[int] = []
        self._content_widths: dict[Hashable, int] = {}
        self._viewport = Viewport()
        self.frozen = Frozen()
        self._prepared: tuple[tuple[int, int, int, int], PreparedPage, list[tuple[GridColumn, int]]] | None = None
        self._styles: GridStyles | None = None
        self._shapes: Shapes = {}
        self._totals: dict[Hashable, str] = {}
        self._beside: Beside | None = None
        self._lit = ""
        self._reasons: Sequence[str] = ()
        self._chosen: tuple[int, GridColumn | None] = (0, None)

    # what it shows

    @property
    def source(self) -> GridSource:
        """Where the rows come from."""
        return self._source

    def show(self, source: GridSource, *, same_table: bool = False) -> None:
        """Show other rows; the cursor stays where the user put it, in column and row, as far as they are there.

        A column that is not there now is gone back to when it is there again. With ``same_table`` columns keep their
        widths.
        """
        column = place_of(self._chosen[1], source.columns)
        self._source = source
        self._prepared = None
        self._shapes, self._totals, self._beside = {}, {}, None
        if not same_table:
            self._content_widths = {}
        self._measure()
        self._place(self._chosen[0], self._viewport.column if column is None else column)

    def columns_are_there(self) -> None:
        """Draw anew columns that were waited for."""
        self._prepared = None
        self._measure()
        self._place(self._viewport.row_position, self._viewport.column)

    def _measure(self) -> None:
        """Find how wide the columns are: their heads, and a sample of values of those not measured yet."""
        columns = self._source.columns
        new = [place for place, column in enumerate(columns) if column.id not in self._content_widths]
        if new and self._source.row_count:
            rows = _SAMPLE_ROWS if len(new) < _MANY_COLUMNS else _SAMPLE_ROWS_OF_MANY
            page = self._source.page(0, rows, new)
            for place, cells in zip(new, page.cells, strict=True):
                if not page.waiting:
                    self._content_widths[columns[place].id] = cells_width(columns[place], cells)
        self._widths = [max(head_width(column), self._content_widths.get(column.id, 0)) for column in columns]

    def light(self, text: str) -> None:
        """Light the cells that have a text in them, whatever its capitals; "": none."""
        if text.casefold() != self._lit:
            self._lit = text.casefold()
            self.refresh()

    def show_figures(
        self, shapes: Shapes, totals: Mapping[Hashable, str], beside: Beside | None = None
    ) -> None:  # fmt: skip
        """Show the distributions of columns above them, what all rows come to below, and across at their right."""
        if shapes != self._shapes:
            self._shapes = shapes
            self.refresh()
        if (dict(totals), beside) != (self._totals, self._beside):
            self._totals, self._beside = dict(totals), beside
            self._place(self._viewport.row_position, self._viewport.column)

    @property
    def viewport(self) -> Viewport:
        """Cursor and corner."""
        return self._viewport

    @property
    def cursor_column(self) -> GridColumn | None:
        """The column under the cursor."""
        columns = self._source.columns
        return columns[self._viewport.column] if self._viewport.column < len(columns) else None

    def cursor_cell(self) -> tuple[str | None, int] | None:
        """Return the cell under the cursor and its row's number in the source (from 1)."""
        if not self._source.row_count or self.cursor_column is None:
            return None
        position = self._viewport.row_position
        page = self._source.page(position, position + 1, [self._viewport.column])
        return (page.cells[0][0], page.source_rows[0]) if page.source_rows and not page.waiting else None

    def rows_on_screen(self) -> tuple[int, int]:
        """Return the positions of the first row on screen and of the one behind the last."""
        top = self._viewport.top
        return top, min(self._source.row_count, top + self._rows_high)

    def visible_columns(self) -> list[int]:
        """Return the places of the columns on screen."""
        return [column for column, _, _ in self._shown_columns()]

    # geometry

    @property
    def _frozen_places(self) -> list[int]:
        return frozen_shown(self.frozen.places(self._source.columns), self._widths, self._room)

    def _shown_columns(self) -> list[tuple[int, int, int]]:
        return shown_columns(self._widths, self._viewport.left, self._room, self._frozen_places)

    @property
    def _rows_high(self) -> int:
        return max(0, self.content_size.height - HEAD_LINES - bool(self._totals))

    @property
    def _number_cells(self) -> tuple[int, int]:
        last = min(self._source.row_count, self._viewport.top + self._rows_high)
        position = max(3, len(f"{last:,}"))
        most = max(self._source.row_count, 1)
        if not self._source.leads_to_source:
            return position, 0
        total = getattr(self._source, "source_rows", most)
        return position, max(6, len(f"{total:,}"))

    @property
    def _reason_cells(self) -> int:
        if not self._source.has_reasons:
            return 0
        longest = max((cell_len(clean(reason)) for reason in self._reasons), default=_REASON_CELLS)
        return max(_LEAST_REASON_CELLS, min(longest + 2, self.content_size.width // _REASONS_SHARE))

    @property
    def _gutter_cells(self) -> int:
        return sum(self._number_cells) + 3 + self._reason_cells

    @property
    def _room(self) -> int:
        return max(0, self.content_size.width - self._gutter_cells - self._side_cells)

    @property
    def _side_cells(self) -> int:
        """The cells of what stands beside the rows."""
        return self._beside.fitting(self.content_size.width) if self._beside is not None else 0

    # moving

    def _go(self, row_position: int, column: int) -> None:
        """Put the cursor where the user wants it."""
        self._place(row_position, column)
        self._chosen = (self._viewport.row_position, self.cursor_column)

    def _place(self, row_position: int, column: int) -> None:
        before = self._viewport
        self._viewport = before.moved(
            row_position, column, self._source.row_count, self._widths, self._rows_high, self._room, self._frozen_places
        )
        self.refresh()
        self.post_message(self.Moved(self))

    def go_to(self, row_position: int | None = None, column: int | None = None) -> None:
        """Put the cursor on a row by position, a column by place, or both."""
        view = self._viewport
        self._go(view.row_position if row_position is None else row_position, view.column if column is None else column)

    def move(self, rows: int, columns: int) -> None:
        """Move the cursor."""
        self._go(self._viewport.row_position + rows, self._viewport.column + columns)

    def page(self, rows: int = 0, columns: int = 0) -> None:
        """Move by whole screens of rows, or by as many columns as are on screen."""
        step = max(1, self._rows_high - 1) * rows
        self._viewport = replace(self._viewport, top=max(0, self._viewport.top + step))
        aside = max(1, len(self.visible_columns()) - 1) * columns
        self._go(self._viewport.row_position + step, self._viewport.column + aside)

    def edge(self, rows: int = 0, columns: int = 0) -> None:
        """Go to the first (-1) or last (1) row or column."""
        row, column = self._viewport.row_position, self._viewport.column
        last_row, last_column = self._source.row_count - 1, len(self._widths) - 1
        self._go((0, row, last_row)[rows + 1], (0, column, last_column)[columns + 1])

    def _on_mouse_scroll_down(self, event: events.MouseScrollDown) -> None:
        """Scroll with the wheel."""
        self._scroll(_WHEEL_ROWS, event)

    def _on_mouse_scroll_up(self, event: events.MouseScrollUp) -> None:
        """Scroll with the wheel."""
        self._scroll(-_WHEEL_ROWS, event)

    def _scroll(self, rows: int, event: events.MouseEvent) -> None:
        event.stop()
        if event.shift:
            self._go(self._viewport.row_position, self._viewport.column + (1 if rows > 0 else -1))
            return
        self._viewport = self._viewport.scrolled(rows, self._source.row_count, self._rows_high)
        self._chosen = (self._viewport.row_position, self.cursor_column)
        self.refresh()
        self.post_message(self.Moved(self))

    def on_click(self, event: events.Click) -> None:
        """Put the cursor where the mouse clicked; a click on a head is told."""
        column = column_at(
            self._widths, self._viewport.left, event.x - self._gutter_cells, self._room, self._frozen_places
        )
        row = self._viewport.top + event.y - HEAD_LINES if event.y >= HEAD_LINES else self._viewport.row_position
        if column is not None:
            self._go(min(row, self._source.row_count - 1), column)
            if event.y < HEAD_LINES:
                self.post_message(self.HeadClicked())

    def on_resize(self) -> None:
        """Keep the cursor on screen."""
        self._place(self._viewport.row_position, self._viewport.column)

    # drawing

    def notify_style_update(self) -> None:
        """Forget the styles when the theme changes."""
        super().notify_style_update()
        self._styles = None

    def _style(self, name: str) -> Style:
        return part_style(self.app.current_theme, f"grid-{name}")

    @property
    def _styles_now(self) -> GridStyles:
        """The styles of the parts, from the theme."""
        if self._styles is None:
            parts = {part.name: self._style(part.name.replace("_", "-")) for part in fields(GridStyles)[1:]}
            if not self.has_focus:
                parts["cursor"] = parts["row"] + Style(underline=True)
            self._styles = GridStyles(base=self.rich_style, **parts)
        return self._styles

    def on_focus(self) -> None:
        """Show the cursor in full."""
        self._styles = None

    def on_blur(self) -> None:
        """Show the cursor as resting."""
        self._styles = None

    def _now(self) -> tuple[PreparedPage, list[tuple[GridColumn, int]]]:
        """Return the page on screen and its columns with their widths, read when the screen shows another part."""
        if self._prepared is None or self._prepared[0] != self._part_shown:
            columns, page = self._read()
            if list(page.reasons) != list(self._reasons):  # they take the room they need, and columns the rest
                self._reasons = page.reasons
                self._keep_in_view()
                columns, page = self._read()
            if self._grow(columns, page):
                columns, page = self._read()
            shown = [(self._head(column), size) for column, _, size in columns]
            self._prepared = (self._part_shown, prepare(page, shown), shown)
            if page.waiting:
                self.post_message(self.Waiting(page.waiting, page.source_rows))
        return self._prepared[1:]

    def _head(self, place: int) -> GridColumn:
        column = self._source.columns[place]
        return replace(column, frozen=True) if self.frozen.has(column.id) else column

    @property
    def _part_shown(self) -> tuple[int, int, int, int]:
        return self._viewport.top, self._viewport.left, self._rows_high, self._room

    def _read(self) -> tuple[list[tuple[int, int, int]], GridPage]:
        top = self._viewport.top
        columns = self._shown_columns()
        end = min(top + self._rows_high, self._source.row_count)
        return columns, self._source.page(top, end, [column for column, _, _ in columns])

    def _grow(self, columns: list[tuple[int, int, int]], page: GridPage) -> bool:
        """Widen columns whose values on screen need more room than those seen before; tell whether any was."""
        before = list(self._widths)
        for (place, _, _), cells in zip(columns, page.cells, strict=True):
            needed = cells_width(self._source.columns[place], cells)
            found = self._source.columns[place].id
            self._content_widths[found] = max(needed, self._content_widths.get(found, 0))
            self._widths[place] = max(needed, self._widths[place])
        if self._widths == before:
            return False
        self._keep_in_view()
        return True

    def _keep_in_view(self) -> None:
        """Scroll as far as the cursor needs it, now that there is less room."""
        view = self._viewport
        self._viewport = view.moved(
            view.row_position, view.column, self._source.row_count, self._widths, self._rows_high, self._room,
            self._frozen_places,
        )  # fmt: skip

    def render_line(self, y: int) -> Strip:
        """Draw one line of the viewport."""
        return drawn(self, lambda: self._line(y), lambda: Strip.blank(self.content_size.width))

    def _line(self, y: int) -> Strip:
        side, is_total = self._side_cells, bool(self._totals) and y == self.content_size.height - 1
        rows = self._of_rows(y, self.content_size.width - side)
        if self._beside is None or not side:
            return rows
        beside = self._beside.line(y, self._viewport.top, self._styles_now, is_total=is_total)
        return Strip.join([rows, beside])

    def _of_rows(self, y: int, width: int) -> Strip:
        styles = self._styles_now
        prepared, shown = self._now()
        cursor = next(
            (at for at, (each, _, _) in enumerate(self._shown_columns()) if each == self._viewport.column), -1
        )
        position_cells, source_cells = self._number_cells
        if y < HEAD_LINES:
            gutter = (
                f" {'row':>{position_cells}} {'source':>{source_cells}} "
                if source_cells
                else f" {'row':>{position_cells}}  "
            )
            if self._reason_cells:
                gutter += "why it is here".ljust(self._reason_cells)
            return head_line(y, shown, styles, width, gutter, cursor, self._shapes)
        if self._totals and y == self.content_size.height - 1:
            return total_line(shown, styles, width, f" {'all':>{position_cells}}  ", self._totals)
        index = y - HEAD_LINES
        position = self._viewport.top + index
        if position >= self._source.row_count:
            return Strip.blank(width, styles.base)
        if index >= len(prepared.page.source_rows):
            return Strip.blank(width, styles.base)
        on_row = position == self._viewport.row_position
        return row_line(
            index, position, prepared, shown, styles, width, (position_cells, source_cells), (on_row, cursor),
            self._reason_cells, self._lit,
        )  # fmt: skip
