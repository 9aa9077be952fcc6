"""The footer: the keys that work right here, most useful first."""

from __future__ import annotations

from textual import events
from textual.content import Content
from textual.message import Message
from textual.widgets import Static

from yardcut.tui.keymap import Key, footer_keys, key_text


class Footer(Static):
    """One line of keys for the focus of now; a click on one presses it."""

    class Pressed(Message):
        """A key was clicked."""

        def __init__(self, key: Key) -> None:
            super().__init__()
            self.key = key

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._places: list[tuple[int, int, Key]] = []
        self._focus_name = "grid"

    def show_focus(self, focus: str) -> None:
        """Show the keys of a focus."""
        self._focus_name = focus
        self._draw()

    def on_resize(self) -> None:
        """Fit as many keys as there is room for."""
        self._draw()

    def _draw(self) -> None:
        keys = footer_keys(self._focus_name)
        help_key = next((key for key in keys if key.id == "help"), None)
        tail = f"{key_text(help_key.keys[0])} {help_key.hint}" if help_key else ""
        room = self.size.width - 2 - len(tail)
        self._places = []
        parts: list[str | Content | tuple[str, str]] = [" "]
        at = 1
        for key in keys:
            if key is help_key:
                continue
            text = key_text(key.keys[0])
            size = len(text) + 1 + len(key.hint) + 3
            if at + size > room:
                break
            parts += [(text, "$accent bold"), (f" {key.hint}   ", "$dim")]
            self._places.append((at, at + size - 2, key))
            at += size
        if help_key:
            parts.append(" " * max(0, self.size.width - 1 - at - len(tail)))
            at = self.size.width - 1 - len(tail)
            parts += [(key_text(help_key.keys[0]), "$accent bold"), (f" {help_key.hint}", "$dim")]
            self._places.append((at, at + len(tail), help_key))
        self.update(Content.assemble(*parts))

    def on_click(self, event: events.Click) -> None:
        """Press the key that was clicked."""
        for start, end, key in self._places:
            if start <= event.x < end:
                self.post_message(self.Pressed(key))
                return
