"""The row card: one row from top to bottom, name, kind and value in full."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import ClassVar

from rich.cells import cell_len
from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import Input, Static

from yardcut.tui.text import MISSING, clean, fit, wrap

_MOST_NAME_CELLS = 26
_MOST_CHARACTERS = 20_000


@dataclass(frozen=True, slots=True)
class CardRow:
    """One row: its position and number in the source (from 1), and (name, kind with number, value) by column."""

    position: int
    source_row: int
    fields: Sequence[tuple[str, str, str | None]]


class RowCard(ModalScreen[int | None]):
    """Shows rows one at a time; returns the position of the last one seen."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,ctrl+g", "put_away", "put away", show=False, priority=True),
        Binding("q,f", "close", "put away", show=False, priority=True),
        Binding("right,n", "turn(1)", "next row", show=False, priority=True),
        Binding("left,p", "turn(-1)", "previous row", show=False, priority=True),
        Binding("enter", "leave_search", "back to the fields", show=False, priority=True),
        Binding("slash", "search", "search", show=False, priority=True),
        Binding("up", "scroll(-1)", "up", show=False, priority=True),
        Binding("down", "scroll(1)", "down", show=False, priority=True),
        Binding("pageup", "scroll(-12)", "up", show=False, priority=True),
        Binding("pagedown,space", "scroll(12)", "down", show=False, priority=True),
    ]

    def __init__(self, position: int, read: Callable[[int], CardRow | None]) -> None:
        super().__init__()
        self._position = position
        self._read = read
        self._search = ""

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="row-card"):
            yield Input(placeholder="part of a name or a value", id="row-search")
            with VerticalScroll(can_focus=True):
                yield Static(id="row-fields")
            yield Static(Content("← → other rows   ↑ ↓ scroll   / search   Esc put away"), classes="keys")

    def on_mount(self) -> None:
        """Show the row."""
        self.query_one(VerticalScroll).focus()
        self._draw()

    def on_resize(self) -> None:
        """Break the values anew."""
        self.call_after_refresh(self._draw)

    def _draw(self) -> None:
        row = self._read(self._position)
        if row is None:
            return
        card = self.query_one("#row-card")
        card.border_title = f"row {row.position + 1:,}, {row.source_row:,} in the source"
        name_cells = min(_MOST_NAME_CELLS, max(cell_len(clean(name)) for name, _, _ in row.fields))
        kind_cells = max(len(kind) for _, kind, _ in row.fields)
        width = max(12, self.query_one(VerticalScroll).size.width - name_cells - kind_cells - 4)
        parts: list[str | tuple[str, str]] = []
        wanted = self._search.casefold()
        for name, kind, value in row.fields:
            if wanted and wanted not in name.casefold() and wanted not in (value or "").casefold():
                continue
            parts += [(fit(clean(name), name_cells) + " ", "bold"), (fit(kind, kind_cells) + " ", "$dim")]
            if value is None:
                parts.append((f"{MISSING}\n", "$none"))
                continue
            shown = value[:_MOST_CHARACTERS]
            lines = [piece for line in shown.split("\n") for piece in wrap(clean(line), width)]
            parts.append(lines[0] + "\n")
            parts += [" " * (name_cells + kind_cells + 2) + line + "\n" for line in lines[1:]]
            if len(value) > len(shown):
                more = f"and {len(value) - len(shown):,} more characters\n"
                parts.append((" " * (name_cells + kind_cells + 2) + more, "$warning"))
        self.query_one("#row-fields", Static).update(Content.assemble(*parts) if parts else Content("nothing matches"))

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """In the search box keys are letters."""
        return not isinstance(self.focused, Input) or action in ("put_away", "leave_search")

    def action_close(self) -> None:
        """Close the card by a letter."""
        self.action_put_away()

    def action_turn(self, by: int) -> None:
        """Show the next or previous row."""
        if self._read(self._position + by) is not None:
            self._position += by
            self._draw()

    def action_scroll(self, rows: int) -> None:
        """Scroll the fields."""
        self.query_one(VerticalScroll).scroll_relative(y=rows, animate=False)

    def action_search(self) -> None:
        """Go to the search box."""
        self.set_focus(self.query_one(Input))  # at once: the letters typed next are for it

    @on(Input.Changed)
    def _changed(self, event: Input.Changed) -> None:
        self._search = event.value
        self._draw()

    def action_leave_search(self) -> None:
        """Go back to the fields."""
        self.set_focus(self.query_one(VerticalScroll))

    def action_put_away(self) -> None:
        """Close the card."""
        self.dismiss(self._position)
