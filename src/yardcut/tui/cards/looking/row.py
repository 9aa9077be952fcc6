"""The row card: one row from top to bottom, name, kind and value in full."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from rich.cells import cell_len
from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import Input, Static

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import scroll_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import MISSING, clean, fit, wrap

_MOST_NAME_CELLS = 26
_MOST_CHARACTERS = 8_000


@dataclass(frozen=True, slots=True)
class CardRow:
    """One row: its position and number in the source (from 1), and (name, kind with number, value) by column.

    ``left_out`` are those of the columns that are not in the cut.
    """

    position: int
    source_row: int | None
    fields: Sequence[tuple[str, str, str | None]]
    left_out: Sequence[tuple[str, str, str | None]] = ()


class RowCard(Card[int | None]):
    """Shows rows one at a time; returns the position of the last one seen."""

    FOCUS = Focus.ROW

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
        yield self.footer()

    def on_mount(self) -> None:
        """Show the row."""
        self.set_focus(self.query_one(VerticalScroll))
        self._draw()

    def on_resize(self) -> None:
        """Break the values anew."""
        self.after_refresh(self._draw)

    def _draw(self) -> None:
        row = self._read(self._position)
        if row is None:
            return
        card = self.query_one("#row-card")
        there = "" if row.source_row is None else f", {row.source_row:,} in the source"
        card.border_title = f"row {row.position + 1:,}{there}"
        every = [*row.fields, *row.left_out]
        name_cells = min(_MOST_NAME_CELLS, max(cell_len(clean(name)) for name, _, _ in every))
        kind_cells = max(len(kind) for _, kind, _ in every)
        width = max(12, self.query_one(VerticalScroll).size.width - name_cells - kind_cells - 4)
        parts: list[str | tuple[str, str]] = []
        wanted = self._search.casefold()
        for place, (name, kind, value) in enumerate(every):
            if place == len(row.fields):
                parts.append((f"── {len(row.left_out):,} left out of the cut ──\n", "$dim"))
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

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        fields = self.query_one(VerticalScroll)
        return {
            "row-away": lambda: self.dismiss(self._position),
            "row-next": lambda: self._turn(1),
            "row-previous": lambda: self._turn(-1),
            "row-search": lambda: self.set_focus(self.query_one(Input)),  # at once: what is typed next is for it
            "row-searched": lambda: self.set_focus(fields),
            **scroll_calls("row", fields),
        }

    def _turn(self, by: int) -> None:
        """Show the next or previous row."""
        if self._read(self._position + by) is not None:
            self._position += by
            self._draw()

    @on(Input.Changed)
    def _changed(self, event: Input.Changed) -> None:
        self._search = event.value
        self._draw()
