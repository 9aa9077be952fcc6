"""The app: themes, and the screen it starts with."""

from __future__ import annotations

from typing import ClassVar

from textual import events
from textual.app import App
from textual.screen import Screen

from yardcut.tui.opening import Opening
from yardcut.tui.screens.main import MainScreen
from yardcut.tui.theme import DARK, LIGHT


class YardCutApp(App[None], inherit_bindings=False):
    """Yard Cut in the terminal."""

    TITLE = "Yard Cut"
    CSS_PATH: ClassVar[str] = "yardcut.tcss"
    ENABLE_COMMAND_PALETTE = False

    def __init__(self, opening: Opening) -> None:
        super().__init__()
        self._opening = opening
        self.register_theme(DARK)
        self.register_theme(LIGHT)
        # set without its watcher, which would parse every style a second time before the first paint
        self.set_reactive(App.theme, DARK.name)
        self.stylesheet.set_variables(self.get_css_variables())

    async def on_event(self, event: events.Event) -> None:
        """Hand letters to the prompt at once; in Textual's queues the keys that follow would overtake them."""
        if isinstance(event, events.Key) and not event.is_forwarded and event.is_printable and event.character:
            screen = self.screen
            if isinstance(screen, MainScreen) and screen.prompt.takes_letter(event.character):
                return
        await super().on_event(event)

    def get_default_screen(self) -> Screen[None]:
        """Return the main screen; pushed later over an empty one it would be laid out and drawn twice."""
        return MainScreen(self._opening)

    def action_form_page(self) -> None:
        """Show the page of keys and forms."""
        from yardcut.tui.screens.help import HelpScreen

        self.push_screen(HelpScreen())
