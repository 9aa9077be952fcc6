"""A card that asks for one line of text, saying live what it would mean."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

from textual import on
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Vertical
from textual.content import Content
from textual.screen import ModalScreen
from textual.widgets import Input, Static

from yardcut.tui.text import clean


class AskCard(ModalScreen[str | None]):
    """Returns the text, or ``None`` when it was put away.

    ``means`` says what a text would do and whether it may be entered; ``others`` are further (key, hint) pairs whose
    text comes back with the key's name in front, as ``f5:text``.
    """

    BINDINGS: ClassVar[list[BindingType]] = [
        Binding("escape,ctrl+g", "put_away", "put away", show=False),
        Binding("f5", "other('f5')", "other", show=False),
    ]

    def __init__(
        self,
        title: str,
        text: str,
        means: Callable[[str], tuple[str, bool]],
        verb: str,
        other: str | None = None,
    ) -> None:
        super().__init__()
        self._title = title
        self._text = text
        self._means = means
        self._verb = verb
        self._other = other

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="ask-card") as card:
            card.border_title = Content(self._title)
            yield Input(self._text, id="ask-input", select_on_focus=False)
            yield Static(id="ask-said", classes="said")
            other = f"   F5 {self._other}" if self._other else ""
            yield Static(Content(f"Enter {self._verb}{other}   Esc put away"), classes="keys")

    def on_mount(self) -> None:
        """Start at the end of the text."""
        self.query_one(Input).action_end()
        self._say()

    @on(Input.Changed)
    def _say(self) -> None:
        said, good = self._means(self.query_one(Input).value)
        style = "$would" if good else "$warning"
        self.query_one("#ask-said", Static).update(Content.styled("\n".join(map(clean, said.split("\n"))), style))

    @on(Input.Submitted)
    def _enter(self) -> None:
        text = self.query_one(Input).value
        if self._means(text)[1]:
            self.dismiss(text)

    def action_other(self, key: str) -> None:
        """Return the text with another key's name."""
        if self._other is not None:
            self.dismiss(f"{key}:{self.query_one(Input).value}")

    def action_put_away(self) -> None:
        """Return nothing."""
        self.dismiss(None)


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
