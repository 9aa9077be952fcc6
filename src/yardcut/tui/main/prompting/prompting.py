"""Opening and closing the prompt, whatever it is used for."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.tui.main.prompting.asking import Asking, Question
from yardcut.tui.main.shown import rest
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.prompting.modes import Mode
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage


class Prompting:
    """One mode at a time."""

    def __init__(self, stage: Stage, showing: Showing) -> None:
        self._stage = stage
        self._showing = showing
        self.find: Callable[[str], None] = lambda word: None
        """Opens the page that finds, with a word; whoever has that page says so."""

    def ask(self, question: Question) -> None:
        """Ask for a line of text; one that is given beforehand gives way to what is typed."""
        self.open_mode(Asking(self._stage, question, self.close), question.text, replaceable=bool(question.text))

    def write(self, text: str, editing: int | None = None) -> None:
        """Open the prompt on a line of the cut."""
        from yardcut.tui.main.prompting.writing_lines import Writing

        self.open_mode(Writing(self._stage, self._showing, self.close, editing, lambda word: self.find(word)), text)

    def open_mode(self, mode: Mode, text: str, *, replaceable: bool = False) -> None:
        """Use the prompt for something; a text that is ``replaceable`` gives way to what is typed."""
        stage = self._stage
        if stage.mode is not None:
            stage.mode.close()
        stage.mode = mode
        stage.prompt.open(text, replaceable=replaceable)
        stage.show_focus()
        mode.text_changed(text)

    def close(self, said: bool = False) -> None:
        """Put the prompt away; the focus goes back to the panel where it was opened."""
        stage = self._stage
        if stage.mode is None:
            return
        stage.mode.close()
        stage.mode = None
        stage.prompt.close()
        if not said:
            stage.prompt.show(rest())
        stage.focus(stage.prompt.opened_from or stage.grid)

    def drop(self) -> None:
        """Put the prompt away without asking its mode, which failed; its work is stopped."""
        stage = self._stage
        stage.mode = None
        stage.jobs.stop(Job.TRY)
        stage.jobs.stop(Job.COMPLETE)
        stage.prompt.close()
        stage.focus(stage.grid)
        self._showing.forget_rows()
        self._showing.show_rows()

    def changed(self, before: Moment, now: Moment) -> None:
        """The moment changed behind the prompt."""
        if self._stage.mode is not None:
            self._stage.mode.moment_changed(before, now)

    def go_on(self) -> None:
        """Something came that the mode may have waited for."""
        if self._stage.mode is not None:
            self._stage.mode.text_changed(self._stage.prompt.text)
