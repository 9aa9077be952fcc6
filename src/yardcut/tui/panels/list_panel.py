"""The cutting list at the left: the lines with their bars, the plank that tapers."""

from __future__ import annotations

from rich.segment import Segment
from rich.style import Style
from textual import events
from textual.message import Message
from textual.strip import Strip
from textual.timer import Timer
from textual.widget import Widget

from yardcut.tui.net import drawn
from yardcut.tui.panels.counts_seen import CountsSeen
from yardcut.tui.panels.list_state import ListState, PanelLine
from yardcut.tui.part_styles import part_style

MARKED_SECONDS = 0.5


class ListPanel(Widget, can_focus=True):
    """Shows a :class:`ListState`; what happens to a line is the screen's to decide."""

    class Selected(Message):
        """Another line is to be selected; -1 is the source."""

        def __init__(self, index: int) -> None:
            super().__init__()
            self.index = index

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._state = ListState()
        self._lines: list[PanelLine] = []
        self._top = 0
        self._counts = CountsSeen()
        self._changed: set[int] = set()
        self._marked_until: Timer | None = None

    def show(self, state: ListState) -> None:
        """Show another state."""
        if state != self._state:
            self._state = state
            self._mark_changes()
            self._layout_lines()

    def _mark_changes(self) -> None:
        """Mark the counts that are others now, for a moment: the eye is drawn to what an edit far above did."""
        changed = self._counts.changed(self._state)
        if not changed:
            return
        self._changed |= changed
        if self._marked_until is not None:
            self._marked_until.stop()
        self._marked_until = self.set_timer(MARKED_SECONDS, self._mark_no_more)

    def _mark_no_more(self) -> None:
        self._changed.clear()
        self.refresh()

    def _layout_lines(self) -> None:
        if not self.content_size.width:
            return
        from yardcut.tui.panels.list_lines import panel_lines

        self._lines = panel_lines(self._state, self.content_size.width, self.content_size.height)
        height = self.content_size.height
        places = [place for place, line in enumerate(self._lines) if line.entry == self._state.selected]
        if places and height:
            if places[0] < self._top:
                self._top = places[0]
            elif places[-1] >= self._top + height:
                self._top = places[-1] - height + 1
        self._top = max(0, min(self._top, len(self._lines) - height))
        self.refresh()

    def on_resize(self) -> None:
        """Lay the lines out anew."""
        self._layout_lines()

    def on_click(self, event: events.Click) -> None:
        """Select the line that was clicked."""
        event.stop()
        place = event.y + self._top
        if 0 <= place < len(self._lines):
            entry = self._lines[place].entry
            if entry is not None and entry != self._state.selected:
                self.post_message(self.Selected(entry))

    def on_mouse_scroll_down(self, event: events.MouseScrollDown) -> None:
        """Scroll a long list."""
        event.stop()
        self._top = max(0, min(self._top + 3, len(self._lines) - self.content_size.height))
        self.refresh()

    def on_mouse_scroll_up(self, event: events.MouseScrollUp) -> None:
        """Scroll a long list."""
        event.stop()
        self._top = max(0, self._top - 3)
        self.refresh()

    def _style(self, part: str) -> Style:
        return part_style(self.app.current_theme, f"list-{part}")

    def render_line(self, y: int) -> Strip:
        """Draw one line."""
        return drawn(self, lambda: self._line(y), lambda: Strip.blank(self.content_size.width))

    def _line(self, y: int) -> Strip:
        width = self.content_size.width
        place = y + self._top
        if place >= len(self._lines):
            return Strip.blank(width, self.rich_style)
        line = self._lines[place]
        base = self.rich_style
        lead = " "
        if line.entry is not None and line.entry == self._state.selected:
            band = self._style("selected")
            base = base + Style(bgcolor=band.bgcolor)
            lead = "▌" if self.has_focus else "▏"
        segments = [Segment(lead, base + self._style("verb"))]
        for index, (text, part) in enumerate(line.runs):
            if index == 0 and text.startswith(" "):
                text = text[1:]
            is_new = part == "count" and line.entry in self._changed
            segments.append(Segment(text, base + self._style("changed" if is_new else part)))
        return Strip(segments).adjust_cell_length(width, base).crop(0, width)
