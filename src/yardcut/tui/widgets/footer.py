"""The footer: the keys that work right here, most useful first."""

from __future__ import annotations

from textual import events
from textual.content import Content
from textual.message import Message
from textual.widgets import Static

from yardcut.tui.keys.actions import Action
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import keymap
from yardcut.tui.keys.names import key_text

_PANELS = {Focus.GRID: " table ", Focus.LIST: " list "}
"""Which panel has the focus, in words: plain without colours too."""


class Footer(Static):
    """One line of keys for the focus of now; a click on one presses it."""

    class Pressed(Message):
        """An action was clicked."""

        def __init__(self, action: Action) -> None:
            super().__init__()
            self.action = action

    def __init__(self, id: str | None = None) -> None:  # noqa: A002 - Textual's own name
        super().__init__(id=id)
        self._places: list[tuple[int, int, Action]] = []
        self._focus = Focus.GRID
        self._offered: frozenset[str] | None = None

    def show_focus(self, focus: Focus, offered: frozenset[str] | None = None) -> None:
        """Show the keys of a focus, of those actions (by id) alone that are offered now where not all are."""
        if (focus, offered) != (self._focus, self._offered):
            self._focus, self._offered = focus, offered
            self._draw()

    def on_resize(self) -> None:
        """Fit as many keys as there is room for."""
        self._draw()

    def _draw(self) -> None:
        keys = [key for key in keymap().footer_actions(self._focus) if self._offered is None or key.id in self._offered]
        help_key = next((key for key in keys if key.id == "help"), None)
        tail = f"{key_text(help_key.keys[0])} {help_key.hint}" if help_key else ""
        room = self.size.width - 2 - len(tail)
        self._places = []
        panel = _PANELS.get(self._focus, "")
        parts: list[str | Content | tuple[str, str]] = [(panel, "$accent reverse bold"), " "]
        at = 1 + len(panel)
        for key in keys:
            if key is help_key:
                continue
            text = key_text(key.keys[0])
            size = len(text) + 1 + len(key.hint) + 2
            if at + size > room:
                break
            parts += [(text, "$accent bold"), (f" {key.hint}  ", "$dim")]
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
