"""Choosing what to open of a database that holds several tables: one, all, or the answer of a query."""

from __future__ import annotations

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.core.sources.spec import QueryLine, SubLine, TableLine
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, clean_lines, fit

_NAME_CELLS = 32


class TableChoice(Card[SubLine | None]):
    """Returns the sub-line that says what to read."""

    FOCUS = Focus.TABLES

    def __init__(self, label: str, tables: list[tuple[str, str]], said: str = "") -> None:
        super().__init__()
        self._said = said
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
            if self._said:
                yield Static(Content.styled(clean_lines(self._said), "$warning"))
            yield OptionList(*lines, Content("all of them, as one stack"))
            yield Static(Content("or a query"), classes="keys")
            yield Input(placeholder="select ticket, grade from packs where …", id="query")
            yield Static(Content("↑ ↓   Enter open it   Tab tables or query   Esc leave"), classes="keys")

    def on_mount(self) -> None:
        """Begin with the tables."""
        self.query_one(OptionList).focus()

    @on(OptionList.OptionSelected)
    def _chosen(self, event: OptionList.OptionSelected) -> None:
        self._open(event.option_index)

    def _open(self, place: int) -> None:
        self.dismiss(TableLine(None, (self._tables[place][0],) if place < len(self._tables) else ()))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        tables, query = self.query_one(OptionList), self.query_one(Input)
        return {
            "tables-away": self.put_away,
            "tables-open": self._enter,
            "tables-switch": lambda: self.set_focus(query if self.focused is tables else tables),
            **({} if self.focused is query else choice_calls(tables)),
        }

    def _enter(self) -> None:
        """Open what is marked, or ask the query."""
        query, place = self.query_one(Input), self.query_one(OptionList).highlighted
        if self.focused is query:
            if query.value.strip():
                self.dismiss(QueryLine(None, query.value.strip()))
        elif place is not None:
            self._open(place)
