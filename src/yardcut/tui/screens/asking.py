"""Asking the user: one line of text in the prompt's place, or a small card that wants an answer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import Static

from yardcut.tui.text import clean


@dataclass(frozen=True, slots=True)
class Question:
    """A line of text wanted in the prompt's place.

    ``means`` says what a text would do, and whether it may be entered; ``done`` takes it. ``replaced`` takes it when F5
    is pressed, which allows what stands there to be replaced. ``options`` offers completions of a text.
    """

    lead: str
    text: str
    means: Callable[[str], tuple[str, bool]]
    done: Callable[[str], None]
    replaced: Callable[[str], None] | None = None
    options: Callable[[str], list[str]] = lambda text: []


class ConfirmCard(ModalScreen[str | None]):
    """Asks once; returns the letter of the answer that was chosen, or ``None``."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,ctrl+g", "put_away", "put away", show=False)]

    def __init__(self, question: str, answers: dict[str, str]) -> None:
        super().__init__()
        self._question = question
        self._answers = answers

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card"):
            yield Static(Content(clean(self._question)))
            keys = "   ".join(f"{key} {hint}" for key, hint in self._answers.items())
            yield Static(Content(f"{keys}   Esc put away"), classes="keys")

    def on_key(self, event: object) -> None:
        """Take one of the answers."""
        key = getattr(event, "character", None)
        if key in self._answers:
            self.dismiss(key)

    def action_put_away(self) -> None:
        """Return nothing."""
        self.dismiss(None)


class SayCard(ModalScreen[None]):
    """Says something until a key is pressed."""

    BINDINGS: ClassVar[list[BindingType]] = [Binding("escape,ctrl+g,enter,space,q", "put_away", "put away", show=False)]

    def __init__(self, title: str, text: str) -> None:
        super().__init__()
        self._title = title
        self._text = text

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card") as card:
            card.border_title = Content(self._title)
            yield Static(Content("\n".join(map(clean, self._text.split("\n")))))
            yield Static(Content("Enter put away"), classes="keys")

    def action_put_away(self) -> None:
        """Close the card."""
        self.dismiss(None)
