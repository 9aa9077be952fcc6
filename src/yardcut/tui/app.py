"""The app: themes, the screen it starts with, and keys, which all go through one dispatcher."""

from __future__ import annotations

import os
from typing import ClassVar, cast

from textual import events
from textual.app import App
from textual.screen import Screen

from yardcut.tui.keys.dispatcher import Dispatcher, Place
from yardcut.tui.keys.terminal import KeyDriver
from yardcut.tui.main.screen import MainScreen
from yardcut.tui.opening import Opening
from yardcut.tui.theme import DARK, LIGHT


class YardCutApp(App[None], inherit_bindings=False):
    """Yard Cut in the terminal."""

    TITLE = "Yard Cut"
    CSS_PATH: ClassVar[str] = "yardcut.tcss"
    ENABLE_COMMAND_PALETTE = False

    def __init__(self, opening: Opening) -> None:
        super().__init__(driver_class=None if os.environ.get("TEXTUAL_DRIVER") else KeyDriver)
        self.dispatcher = Dispatcher(self._place, lambda: self._main.parts.calls)
        self._main = MainScreen(opening, self.dispatcher)
        self.register_theme(DARK)
        self.register_theme(LIGHT)
        # set without its watcher, which would parse every style a second time before the first paint
        self.set_reactive(App.theme, DARK.name)
        self.stylesheet.set_variables(self.get_css_variables())

    def _place(self) -> Place | None:
        """Return where keys go now, once there is such a place."""
        if not self.screen_stack:
            return None
        screen = self.screen
        return cast(Place, screen) if getattr(screen, "takes_keys", False) else None

    async def on_event(self, event: events.Event) -> None:
        """Give every key to the dispatcher first; what it leaves goes Textual's way, while there is a screen."""
        if isinstance(event, events.Key | events.Paste) and not event.is_forwarded and self.dispatcher.take(event):
            return
        if self.screen_stack or not isinstance(event, events.InputEvent):  # the last keys come when all is closed
            await super().on_event(event)

    def get_default_screen(self) -> Screen[None]:
        """Return the main screen; pushed later over an empty one it would be laid out and drawn twice."""
        return self._main
