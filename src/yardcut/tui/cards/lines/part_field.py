"""The field of a card in which one part of what it lists is written; it is there only meanwhile."""

from __future__ import annotations

from typing import Any

from textual.screen import Screen
from textual.widget import Widget
from textual.widgets import Input


class PartField:
    """Takes the focus while something is written, and gives it back to the list."""

    def __init__(self, screen: Screen[Any], beside: Widget, name: str) -> None:
        self._screen, self._beside = screen, beside
        self.input = Input(id=name, select_on_focus=False)
        self.input.display = False

    @property
    def text(self) -> str:
        """What is written in it, without blanks around it."""
        return self.input.value.strip()

    def begin(self, text: str) -> None:
        """Show it with a text, the cursor behind it."""
        self.input.display = True
        self.input.value = text
        self.input.cursor_position = len(text)
        self._screen.set_focus(self.input)

    def end(self) -> None:
        """Take it away."""
        self.input.display = False
        self._screen.set_focus(self._beside)
