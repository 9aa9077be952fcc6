"""The cuts of the list: going from one to another, and adding, copying, naming and taking out."""

from __future__ import annotations

from collections.abc import Sequence

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance, plural

_NAME_CELLS = 30


@dataclass(frozen=True, slots=True)
class CutEntry:
    """One cut: its name, its lines, and which is worked on now."""

    name: str
    lines: Sequence[str]
    is_now: bool


@dataclass(frozen=True, slots=True)
class CutDeed:
    """What is to be done with the cut of an index.

    ``what`` is ``go``, ``new``, ``copy``, ``from``, ``rename``, ``compare``, ``elsewhere`` or ``delete``.
    """

    what: str
    index: int


class CutsCard(Card[CutDeed | None]):
    """Returns what is to be done."""

    FOCUS = Focus.CUTS

    def __init__(self, entries: Sequence[CutEntry]) -> None:
        super().__init__()
        self._entries = entries

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="cuts-card") as card:
            card.border_title = f"{plural(len(self._entries), 'cut')} of this list"
            yield OptionList(*map(self._line, self._entries))
        yield self.footer()

    def on_mount(self) -> None:
        """Mark the cut worked on."""
        options = self.query_one(OptionList)
        options.highlighted = next((at for at, entry in enumerate(self._entries) if entry.is_now), 0)
        self.set_focus(options)

    def _line(self, entry: CutEntry) -> Content:
        mark = "▸ " if entry.is_now else "  "
        lines = "   ".join(glance(" ".join(line.split())) for line in entry.lines) or "no lines yet"
        return Content.assemble(
            (mark, "$accent"), (fit(clean(entry.name or "cut"), _NAME_CELLS), "bold"), (lines, "$dim")
        )

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "cuts-away": self.put_away,
            "cuts-go": lambda: self._do("go"),
            "cuts-new": lambda: self._do("new"),
            "cuts-copy": lambda: self._do("copy"),
            "cuts-from": lambda: self._do("from"),
            "cuts-rename": lambda: self._do("rename"),
            "cuts-compare": lambda: self._do("compare"),
            "cuts-elsewhere": lambda: self._do("elsewhere"),
            "cuts-delete": lambda: self._do("delete"),
            **choice_calls(self.query_one(OptionList)),
        }

    def _do(self, what: str) -> None:
        self.dismiss(CutDeed(what, self.query_one(OptionList).highlighted or 0))

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Go to the cut that was clicked."""
        self.dismiss(CutDeed("go", event.option_index))
