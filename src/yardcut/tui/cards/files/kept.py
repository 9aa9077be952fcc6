"""Unsaved lists that were kept: which to take up, and in which of their last states."""

from __future__ import annotations

from collections.abc import Callable

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.cutlist.kept_lists import Found, KeptList
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import glance, plural, when

_MOST_LINES = 12


class KeptCard(Card[tuple[Found, KeptList] | None]):
    """Returns the state chosen, with the list it is of. ``forget`` drops a list for good."""

    FOCUS = Focus.KEPT

    def __init__(self, found: list[Found], forget: Callable[[Found], None]) -> None:
        super().__init__()
        self._drop = forget
        self._states = [(one, state) for one in found for state in one.states]

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="kept-card") as card:
            card.border_title = "unsaved lists of this source"
            yield OptionList(*(self._line(found, state) for found, state in self._states))
            yield Static(id="kept-lines", classes="said")
        yield self.footer()

    def on_mount(self) -> None:
        """Begin with the newest."""
        self.set_focus(self.query_one(OptionList))

    def _line(self, found: Found, state: KeptList) -> Content:
        age = found.states.index(state)
        if age:
            lead = f"    {plural(age, 'edit')} before"
        else:
            lead = f"{when(found.edited)}, {'left unsaved' if found.was_left else 'not saved when it ended'}"
        return Content.assemble((lead, "bold" if not age else "$dim"), (f"   {plural(len(state.lines), 'line')}", ""))

    @on(OptionList.OptionHighlighted)
    def _marked(self, event: OptionList.OptionHighlighted) -> None:
        """Show the lines of the marked state."""
        state = self._states[event.option_index][1]
        shown = [f"{number:>3} {glance(line)}" for number, line in enumerate(state.lines[:_MOST_LINES], 1)]
        if len(state.lines) > _MOST_LINES:
            shown.append(f"    and {len(state.lines) - _MOST_LINES} more")
        self.query_one("#kept-lines", Static).update(Content("\n" + "\n".join(shown)))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "kept-away": self.put_away,
            "kept-take": self._take,
            "kept-forget": self._forget,
            **choice_calls(self.query_one(OptionList)),
        }

    def _take(self) -> None:
        place = self.query_one(OptionList).highlighted
        if place is not None:
            self.dismiss(self._states[place])

    @on(OptionList.OptionSelected)
    def _chosen(self, event: OptionList.OptionSelected) -> None:
        self.dismiss(self._states[event.option_index])

    def _forget(self) -> None:
        """Drop the list of the marked state, with all its states."""
        lines = self.query_one(OptionList)
        if lines.highlighted is None:
            return
        gone = self._states[lines.highlighted][0]
        self._drop(gone)
        self._states = [(found, state) for found, state in self._states if found is not gone]
        lines.clear_options()
        lines.add_options([self._line(found, state) for found, state in self._states])
        if not self._states:
            self.put_away()
