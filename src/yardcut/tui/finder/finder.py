"""The page that finds: what is typed narrows the list, Enter does what is marked."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.finder.leads import Entry, Lead
from yardcut.tui.finder.word_search import Found, Search
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit

_SECTION_CELLS, _LEFT_CELLS, _RIGHT_CELLS = 16, 37, 40


class FinderCard(Card[Lead | None]):
    """Lists everything there is to do and to write; returns where the marked entry leads.

    ``says`` tells what Enter does with an entry, where the finder was opened.
    """

    FOCUS = Focus.HELP

    def __init__(self, found: Sequence[Entry], says: Callable[[Entry], str], search: str = "") -> None:
        super().__init__()
        self._search, self._says, self._typed = Search(found), says, search
        self._found, self._shown_for = Found(()), ""
        self._list, self._said = OptionList(), Static("", id="finder-said")

    def compose(self) -> ComposeResult:
        """Lay out the page."""
        with Vertical(classes="card", id="finder-card") as card:
            card.border_title = "find what to do"
            yield Input(self._typed, placeholder="any word: percent, join, missing, undo …", select_on_focus=False)
            yield self._list
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show everything, or what was asked for."""
        self.set_focus(self.query_one(Input))
        self._show()

    @on(Input.Changed)
    def _show(self) -> None:
        typed = self._shown_for = self.query_one(Input).value
        self._found = self._search.find(typed)
        self._list.clear_options()
        section = ""
        shown = []
        sections = self.text_cells(_SECTION_CELLS, _LEFT_CELLS + _RIGHT_CELLS, 0)
        left = self.text_cells(_LEFT_CELLS, sections + _RIGHT_CELLS)
        for entry in self._found.entries:
            head = entry.section if entry.section != section else ""
            section = entry.section
            shown.append(
                Content.assemble(
                    (fit(head, sections), "$accent"),
                    (fit(clean(entry.left), left), "bold"),
                    (f"  {clean(entry.right)}", "$dim"),
                )
            )
        self._list.add_options(shown)
        if shown:
            self._list.highlighted = 0
        self._tell()

    @on(OptionList.OptionHighlighted)
    def _tell(self) -> None:
        entry = self._marked
        typed = self.query_one(Input).value.strip()
        parts: list[str | Content | tuple[str, str]] = []
        if self._found.instead and typed:
            parts.append((f"nothing is told of {clean(typed)}; this is of {self._found.instead}\n", "$warning"))
        if entry is None:
            parts.append(("nothing is told of that", "$dim"))
        else:
            parts.append((clean(f"{entry.left}: {entry.right}" if entry.right else entry.left), ""))
            parts.append((f"\n{self._says(entry)}", "$would"))
        self._said.update(Content.assemble(*parts))

    @property
    def _marked(self) -> Entry | None:
        place = self._list.highlighted
        return None if place is None or place >= len(self._found.entries) else self._found.entries[place]

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"help-away": self.put_away, "help-do": self._do, **choice_calls(self._list)}

    def _do(self) -> None:
        if self.query_one(Input).value != self._shown_for:  # the news of the last letters is still on its way
            self._show()
        entry = self._marked
        if entry is not None and entry.lead != Lead():
            self.dismiss(entry.lead)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Do what was clicked."""
        self._do()
