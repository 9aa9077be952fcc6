"""Choosing what to open of a database that holds several tables: one, all, or the answer of a query."""

from __future__ import annotations

from typing import ClassVar

from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import Input, OptionList, Static

from yardcut.core.sources.spec import QueryLine, SubLine, TableLine
from yardcut.tui.text import clean, fit

_NAME_CELLS = 32


class TableChoice(ModalScreen[SubLine | None]):
    """Returns the sub-line that says what to read."""

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,ctrl+g", "put_away", "leave", show=False),
        Binding("tab", "switch", "tables or query", show=False, priority=True),
    ]

    def __init__(self, label: str, tables: list[tuple[str, str]]) -> None:
        super().__init__()
        self._label = label
        self._tables = tables

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card") as card:
            card.border_title = Content(f"{clean(self._label)} holds {len(self._tables)} tables")
            lines = [
                Content.assemble((fit(clean(name), _NAME_CELLS), "bold"), (f"  {said}", "$dim"))
                for name, said in self._tables
            ]
            yield OptionList(*lines, Content("all of them, as one stack"))
            yield Static(Content("or a query"), classes="keys")
            yield Input(placeholder="select ticket, grade from packs where …", id="query")
            yield Static(Content("↑ ↓   Enter open it   Tab tables or query   Esc leave"), classes="keys")

    def on_mount(self) -> None:
        """Begin with the tables."""
        self.query_one(OptionList).focus()

    @on(OptionList.OptionSelected)
    def _chosen(self, event: OptionList.OptionSelected) -> None:
        place = event.option_index
        self.dismiss(TableLine(None, (self._tables[place][0],) if place < len(self._tables) else ()))

    @on(Input.Submitted)
    def _asked(self, event: Input.Submitted) -> None:
        if event.value.strip():
            self.dismiss(QueryLine(None, event.value.strip()))

    def action_switch(self) -> None:
        """Go from the tables to the query and back."""
        tables, query = self.query_one(OptionList), self.query_one(Input)
        self.set_focus(query if self.focused is tables else tables)

    def action_put_away(self) -> None:
        """Open nothing."""
        self.dismiss(None)
