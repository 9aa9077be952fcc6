"""The keys that only one of two tables has: asked for and not there, and here without a row there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit, glance, plural

if TYPE_CHECKING:
    from yardcut.core.run.looking.one_sided_keys import Key, KeysApart

_MOST_SHOWN = 2_000
_KEY, _COUNT = 46, 12


class KeysApartCard(Card[tuple[str, list[tuple[str, ...]]] | None]):
    """Returns the side whose keys are to be saved, with its keys, or nothing."""

    FOCUS = Focus.KEYS_APART

    def __init__(self, said: str, is_list: bool, apart: KeysApart) -> None:
        super().__init__()
        self._there, self._here = said, "here"
        self._is_list, self._apart = is_list, apart
        self._of_there = bool(apart.there) or not apart.here
        self._twins: dict[Key, tuple[Key, str]] = {}
        for twin in apart.twins:
            self._twins.setdefault(twin.there, (twin.here, twin.what))
        self._mine = {twin.here: (twin.there, twin.what) for twin in apart.twins}
        self._said, self._list = Static("", id="keys-apart-said"), OptionList()

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="keys-apart-card") as card:
            card.border_title = Content(f"keys that only one of two tables has: {clean(self._there)}")
            yield self._said
            yield self._list
        yield self.footer()

    def on_mount(self) -> None:
        """Show the side that matters more."""
        self._show()
        self.set_focus(self._list)

    def _show(self) -> None:
        apart = self._apart
        self._list.clear_options()
        if self._of_there:
            word = "asked for and not there" if self._is_list else "there, and no row here has them"
            said = f"{plural(len(apart.there), 'key')} of {self._there} {word}"
            lines = [self._line(key, "", self._twins.get(key)) for key in apart.there[:_MOST_SHOWN]]
            count = len(apart.there)
        else:
            rows = sum(rows for _, rows in apart.here)
            said = f"{plural(len(apart.here), 'key')} here without a row in {self._there}: {plural(rows, 'row')}"
            lines = [
                self._line(key, f"{rows:>{_COUNT - 1},} ", self._mine.get(key))
                for key, rows in apart.here[:_MOST_SHOWN]
            ]
            count = len(apart.here)
        more = f"   the first {_MOST_SHOWN:,} are shown, all are saved" if count > _MOST_SHOWN else ""
        self._said.update(Content.assemble((clean(said), "bold"), (more, "$dim")))
        self._list.add_options(lines or [Content.styled("none", "$dim")])
        self._list.highlighted = 0

    def _line(self, key: Key, rows: str, twin: tuple[Key, str] | None) -> Content:
        other = "" if twin is None else f"  but '{glance(' '.join(twin[0]))}' differs in {twin[1]} only"
        return Content.assemble((rows, "$count"), (fit(glance(" ".join(key)), _KEY), "bold"), (other, "$warning"))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "keys-apart-away": self.put_away,
            "keys-apart-switch": self._switch,
            "keys-apart-save": self._save,
            **choice_calls(self._list),
        }

    def _switch(self) -> None:
        self._of_there = not self._of_there
        self._show()

    def _save(self) -> None:
        if self._of_there:
            self.dismiss(("there", list(self._apart.there)))
        else:
            self.dismiss(("here", [(*key, str(rows)) for key, rows in self._apart.here]))
