"""The list of the rack: only the rows on screen are ever drawn."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from textual import events
from textual.content import Content
from textual.message import Message
from textual.widget import Widget

from yardcut.tui.net import drawn
from yardcut.tui.rack.rack_lines import Seen, divider, row_line
from yardcut.tui.rack.rack_rows import RackRow


class RackList(Widget, can_focus=True):
    """Shows rows with a line between those in the cut and the others; a cursor moves over the rows alone."""

    class Moved(Message):
        """Other rows are on screen, or the cursor stands elsewhere."""

    class Chosen(Message):
        """The mouse clicked the row under the cursor once more."""

    def __init__(self, see: Callable[[int], Seen]) -> None:
        super().__init__()
        self._see = see
        self._rows: Sequence[RackRow] = ()
        self._in_cut = 0
        self.cursor = 0
        self._top = 0

    def show(self, rows: Sequence[RackRow], cursor: int) -> None:
        """Show other rows, with the cursor on one of them."""
        self._rows = rows
        self._in_cut = sum(row.in_cut for row in rows)
        self.go_to(cursor)

    @property
    def rows(self) -> Sequence[RackRow]:
        """The rows it shows."""
        return self._rows

    @property
    def row(self) -> RackRow | None:
        """The row under the cursor."""
        return self._rows[self.cursor] if self._rows else None

    @property
    def in_cut(self) -> int:
        """How many of its rows are in the cut; they come first."""
        return self._in_cut

    # lines: rows, and the one between, which is no place for the cursor

    @property
    def _has_divider(self) -> bool:
        return 0 < self._in_cut < len(self._rows)

    def _line_of(self, place: int) -> int:
        return place + (self._has_divider and place >= self._in_cut)

    def _place_of(self, line: int) -> int | None:
        """Return the row on a line; ``None`` for the line between, and for none."""
        if self._has_divider and line == self._in_cut:
            return None
        place = line - (self._has_divider and line > self._in_cut)
        return place if 0 <= place < len(self._rows) else None

    def places_on_screen(self) -> list[int]:
        """Return the places of the rows on screen."""
        found = [self._place_of(line) for line in range(self._top, self._top + self.size.height)]
        return [place for place in found if place is not None]

    # moving

    def go_to(self, place: int) -> None:
        """Put the cursor on a row."""
        self.cursor = max(0, min(place, len(self._rows) - 1))
        line, height = self._line_of(self.cursor), max(1, self.size.height)
        self._top = max(min(self._top, line), line - height + 1)
        last = len(self._rows) + self._has_divider - height
        self._top = max(0, min(self._top, max(0, last)))
        self.refresh()
        self.post_message(self.Moved())

    def move(self, by: int) -> None:
        """Move the cursor by rows."""
        self.go_to(self.cursor + by)

    def page(self, pages: int) -> None:
        """Move the cursor by whole screens."""
        self.go_to(self.cursor + pages * max(1, self.size.height - 1))

    def on_resize(self) -> None:
        """Keep the cursor on screen."""
        self.go_to(self.cursor)

    def on_click(self, event: events.Click) -> None:
        """Put the cursor where the mouse clicked; a second click there chooses."""
        place = self._place_of(self._top + event.y)
        if place is None:
            return
        if place == self.cursor:
            self.post_message(self.Chosen())
        else:
            self.go_to(place)

    def on_mouse_scroll_down(self, event: events.MouseScrollDown) -> None:
        """Scroll with the wheel."""
        event.stop()
        self.move(3)

    def on_mouse_scroll_up(self, event: events.MouseScrollUp) -> None:
        """Scroll with the wheel."""
        event.stop()
        self.move(-3)

    # drawing

    def render(self) -> Content:
        """Draw the rows on screen."""
        return drawn(self, self._draw, lambda: Content(""))

    def _draw(self) -> Content:
        width, lines = self.size.width, []
        for line in range(self._top, self._top + self.size.height):
            place = self._place_of(line)
            if place is not None:
                lines.append(row_line(self._rows[place], self._see(place), width))
            elif self._has_divider and line == self._in_cut:
                lines.append(divider(len(self._rows) - self._in_cut, width))
        return Content("\n").join(lines)
