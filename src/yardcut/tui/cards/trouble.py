"""The card that tells of an error nobody foresaw."""

from __future__ import annotations

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Static

from yardcut.tui.cards.card import Card
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean_lines


class TroubleCard(Card[None]):
    """Says where it came from, that the list is kept, and where the log is."""

    def __init__(self, place: str, log: str) -> None:
        super().__init__()
        self._place = place
        self._log = log

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        text = (
            "Something went wrong that nobody foresaw. The cutting list and the table are as they were: go on, or take "
            f"the last edit back with {key_of('undo')}.\n\n{self._place}\n\n"
            f"The log tells more, and holds no cell: {self._log}"
        )
        with Vertical(classes="card") as card:
            card.border_title = "a fault of Yard Cut"
            yield Static(Content(clean_lines(text)))
        yield self.footer()
