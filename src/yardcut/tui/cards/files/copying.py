"""What can be copied to the clipboard, chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance

_SAYS_CELLS = 34


@dataclass(frozen=True, slots=True)
class Copyable:
    """One thing to copy: what it is called, what is said of it, and what does it."""

    says: str
    about: str
    copy: Callable[[], None]


class CopyingCard(Card[Copyable | None]):
    """Returns what is to be copied."""

    FOCUS = Focus.COPYING

    def __init__(self, found: Sequence[Copyable]) -> None:
        super().__init__()
        self._found = found
        self._list = OptionList(*map(_line, found))

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="copying-card") as card:
            card.border_title = "copy to the clipboard"
            yield self._list
        yield self.footer()

    def on_mount(self) -> None:
        """Mark the first."""
        self._list.highlighted = 0
        self.set_focus(self._list)

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {"copying-away": self.put_away, "copying-do": self._do, **choice_calls(self._list)}

    def _do(self) -> None:
        self.dismiss(self._found[self._list.highlighted or 0])

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Copy what was clicked."""
        self.dismiss(self._found[event.option_index])


def _line(each: Copyable) -> Content:
    return Content.assemble((fit(each.says, _SAYS_CELLS), "bold"), (f"  {clean(glance(each.about))}", "$dim"))
