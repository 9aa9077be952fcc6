"""Opening cards and pages, leaving, and what the keys do everywhere."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.screen import MainScreen


class CardHands:
    """Cards return a line, a place, or nothing; what comes of it is done here."""

    def __init__(self, screen: MainScreen) -> None:
        self._screen = screen

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "help": self._help,
            "panel": self._switch_panel,
            "source": self._source,
            "profile": self._profile,
            "again": self._screen.parts.reading.read_again,
            "fold": self._fold,
            "theme": self.change_theme,
            "leave": self.leave,
        }

    def _help(self) -> None:
        """Show all keys."""
        from yardcut.tui.cards.help import HelpCard

        self._screen.app.push_screen(HelpCard())

    def _switch_panel(self) -> None:
        """Go from the list to the table and back."""
        screen = self._screen
        to_list = screen.focused is screen.grid
        if to_list:
            screen.list_panel.remove_class("folded")
        screen.set_focus(screen.list_panel if to_list else screen.grid)

    def _source(self) -> None:
        """Show what was read and how."""
        from yardcut.tui.cards.source import SAVE_LEFT_OUT, SourceCard

        screen = self._screen
        assert screen.desk is not None

        def chosen(line: str | None) -> None:
            if line == SAVE_LEFT_OUT:
                screen.parts.saving.save_left_out()
            elif line is not None:
                screen.parts.write(line)

        screen.app.push_screen(SourceCard(screen.desk.now.table, screen.desk.now.spec), chosen)

    def _profile(self) -> None:
        """Show the profile of every column."""
        from yardcut.tui.cards.profile import ProfileCard
        from yardcut.tui.desk.grids import moment_source

        screen = self._screen
        assert screen.desk is not None
        source, looks = moment_source(screen.desk.now), screen.parts.looking.looks
        if source is None or looks is None:
            screen.say("the rows are still being counted")
            return

        def chosen(place: int | None) -> None:
            if place is not None:
                screen.grid.go_to(column=place)

        screen.app.push_screen(ProfileCard(source.rows, source.label, looks), chosen)

    def _fold(self) -> None:
        """Fold the list away, or back."""
        self._screen.list_panel.toggle_class("folded")
        self._screen.set_focus(self._screen.grid)

    def change_theme(self) -> None:
        """Change the theme."""
        app = self._screen.app
        app.theme = "yard-light" if app.theme == "yard-dark" else "yard-dark"

    def leave(self) -> None:
        """Leave, asking once when the list is not saved."""
        from yardcut.tui.cards.confirm import ConfirmCard

        screen = self._screen
        desk = screen.desk
        if desk is None or desk.now.is_saved or not desk.now.cut.lines:
            screen.app.exit()
            return

        def answered(answer: str | None) -> None:
            if answer == "y":
                screen.app.exit()
            elif answer == "s":
                screen.parts.saving.save_list()

        question = "The cutting list is not saved. Leave all the same?"
        screen.app.push_screen(ConfirmCard(question, {"y": "leave it unsaved", "s": "save the list first"}), answered)
