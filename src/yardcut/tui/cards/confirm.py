"""Small cards: one that wants an answer, and one that says something."""

from __future__ import annotations

from textual import events
from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import Static

from yardcut.tui.cards.card import Card
from yardcut.tui.text import clean, clean_lines
from yardcut.tui.widgets.footer import Footer


class ConfirmCard(Card[str | None]):
    """Asks once; returns the letter of the answer that was chosen, or ``None``."""

    def __init__(self, question: str, answers: dict[str, str]) -> None:
        super().__init__()
        self._question = question
        self._answers = answers

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card"):
            yield Static(Content(clean(self._question)))
        yield Footer(focus=self.FOCUS, first=tuple(self._answers.items()))

    @property
    def takes_text(self) -> bool:
        """Its answers are letters."""
        return True

    def take_text(self, text: str) -> bool:
        """Take one of the answers."""
        if text in self._answers:
            self.dismiss(text)
        return True


class SayCard(Card[None]):
    """Says something until a key is pressed."""

    def __init__(self, title: str, text: str) -> None:
        super().__init__()
        self._title = title
        self._text = text

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card") as card:
            card.border_title = Content(self._title)
            yield Static(Content(clean_lines(self._text)))
        yield self.footer()

    def take_text(self, text: str) -> bool:
        """Any letter will do."""
        self.put_away()
        return True

    @property
    def takes_text(self) -> bool:
        """Any letter will do."""
        return True

    def hand_on(self, event: events.Key) -> None:
        """Any other key will do too."""
        self.put_away()

    def key_enter(self) -> None:
        """Close the card."""
        self.put_away()
