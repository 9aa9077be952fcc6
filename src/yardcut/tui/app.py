"""The app: themes, the screen it starts with, keys, which all go through one dispatcher, and the net below it."""

from __future__ import annotations

import asyncio
import os
from typing import ClassVar, cast

from textual import events
from textual.app import App
from textual.screen import Screen

from yardcut.tui.in_force import InForce
from yardcut.tui.keys.dispatcher import Dispatcher, Place
from yardcut.tui.keys.keymap import use_keymap
from yardcut.tui.keys.terminal import KeyDriver
from yardcut.tui.main.screen import MainScreen
from yardcut.tui.net import Net, keep_loops_alive
from yardcut.tui.number_marks import use_marks
from yardcut.tui.opened_with import Opening
from yardcut.tui.so_far import so_far_said
from yardcut.tui.theme import THEMES, theme_for

_LOOK_SECONDS = 0.02


class YardCutApp(App[Opening], inherit_bindings=False):
    """Yard Cut in the terminal, on one source; it returns the next one where another is to be opened."""

    TITLE = "Yard Cut"
    CSS_PATH: ClassVar[str] = "yardcut.tcss"
    ENABLE_COMMAND_PALETTE = False

    def __init__(self, opening: Opening, in_force: InForce | None = None) -> None:
        in_force = in_force or InForce()
        use_keymap(in_force.keymap)
        use_marks(in_force.marks)
        super().__init__(driver_class=None if os.environ.get("TEXTUAL_DRIVER") else KeyDriver)
        keep_loops_alive()
        self.told_to_leave = 0
        """The code to leave with, where the program was told to end before there was a loop."""
        self.net = Net(self._trouble, lambda: self._main.stage.prompt.is_ready)
        self.dispatcher = Dispatcher(self._place, lambda: self._main.parts.calls)
        self._main = MainScreen(opening, self.dispatcher)
        self._main.stage.said_at_start = in_force.said()
        for theme in THEMES:
            self.register_theme(theme)
        # set without its watcher, which would parse every style a second time before the first paint
        self.set_reactive(App.theme, theme_for(in_force.theme, self.console.color_system))
        self.stylesheet.set_variables(self.get_css_variables())

    @property
    def so_far(self) -> str:
        """What is said of figures while they are of the first rows only; nothing when all of the source is there."""
        desk = self._main.stage.desk
        return "" if desk is None else so_far_said(desk.now.table)

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

    def on_ready(self) -> None:
        """Leave at once, if somebody told so before."""
        if self.told_to_leave:
            self.leave(self.told_to_leave)

    def leave(self, return_code: int) -> None:
        """Leave, once the first screen is there: what is half mounted cannot be taken down in peace."""
        if self._main.stage.prompt.is_ready:
            self.exit(return_code=return_code)
        else:
            asyncio.get_running_loop().call_later(_LOOK_SECONDS, self.leave, return_code)

    def lose_workers(self, text: str) -> None:
        """Say, in whatever thread it is met, that nobody else goes over the rows; the header says so from then on."""

        def lost() -> None:
            self._main.stage.noted = "workers lost"
            self._main.stage.say_more(text)

        if self.is_running:
            self.call_from_thread(lost)

    # errors nobody foresaw

    def _handle_exception(self, error: Exception) -> None:
        """Go on, where there is something to go on with; what Textual does is end the app."""
        if not self.net.takes(error):
            super()._handle_exception(error)

    def _trouble(self, place: str, is_new: bool) -> None:
        """Tell of an error, outside of what it broke."""
        if not self._exit:
            self.call_later(self._tell_trouble, place, is_new)

    def _tell_trouble(self, place: str, is_new: bool) -> None:
        from yardcut.core.state import log_path
        from yardcut.tui.cards.trouble import TroubleCard

        if not isinstance(self.screen, TroubleCard):  # that one is not what failed
            self._main.parts.step_back_from_trouble()
        if is_new and not isinstance(self.screen, TroubleCard):
            self.push_screen(TroubleCard(place, str(log_path())))

    def get_default_screen(self) -> Screen[None]:
        """Return the main screen; pushed later over an empty one it would be laid out and drawn twice."""
        return self._main
