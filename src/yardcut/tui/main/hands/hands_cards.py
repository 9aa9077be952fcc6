"""Opening cards and pages, leaving, and what the keys do everywhere."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.tui.keys.focus import Focus
from yardcut.tui.main.looking import rows_looked_at
from yardcut.tui.theme import next_theme

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.saving.saving_files import Saving
    from yardcut.tui.main.stage import Stage


class CardHands:
    """Cards return a line, a place, or nothing; what comes of it is done here."""

    def __init__(self, stage: Stage, prompting: Prompting, saving: Saving, read_again: Callable[[], None]) -> None:
        self._stage = stage
        self._prompting = prompting
        self._saving = saving
        self._read_again = read_again

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "panel": self._switch_panel,
            "source": self._source,
            "profile": self._profile,
            "again": self._read_again,
            "fold": self._fold,
            "theme": self.change_theme,
            "leave": self.leave,
        }

    def _switch_panel(self) -> None:
        """Go from the list to the table and back."""
        stage = self._stage
        to_list = stage.focus_now is Focus.GRID
        if to_list:
            stage.list_panel.remove_class("folded")
        stage.focus(stage.list_panel if to_list else stage.grid)

    def _source(self) -> None:
        """Show what was read and how."""
        from yardcut.tui.cards.files.source import SAVE_LEFT_OUT, SourceCard

        stage = self._stage
        assert stage.desk is not None

        column = stage.grid.cursor_column
        about = None if column is None else column.name

        def chosen(line: str | None) -> None:
            if line == SAVE_LEFT_OUT:
                self._saving.save_left_out()
            elif line is not None:
                self._prompting.write(line)

        stage.app.push_screen(SourceCard(stage.desk.now.table, stage.opening.spec, about), chosen)

    def _profile(self) -> None:
        """Show the profile of every column."""
        from yardcut.tui.cards.looking.profile import ProfileCard

        stage, looked_at = self._stage, rows_looked_at(self._stage)
        if looked_at is None:
            return
        source, looks = looked_at

        def chosen(place: int | None) -> None:
            if place is not None:
                stage.grid.go_to(column=place)

        stage.app.push_screen(ProfileCard(source.rows, source.label, looks), chosen)

    def _fold(self) -> None:
        """Fold the list away, or back."""
        self._stage.list_panel.toggle_class("folded")
        self._stage.focus(self._stage.grid)

    def change_theme(self) -> None:
        """Change the theme."""
        app = self._stage.app
        app.theme = next_theme(app.theme)

    def leave(self) -> None:
        """Leave, asking once when the list is not saved."""
        from yardcut.tui.cards.confirm import ConfirmCard

        stage = self._stage
        desk = stage.desk
        if desk is None or desk.now.is_saved or not desk.now.cut.lines:
            stage.app.exit()
            return

        def answered(answer: str | None) -> None:
            if answer == "y":
                stage.app.exit()
            elif answer == "s":
                self._saving.save_list()

        question = "The cutting list is not saved. Leave all the same?"
        stage.app.push_screen(ConfirmCard(question, {"y": "leave it unsaved", "s": "save the list first"}), answered)
