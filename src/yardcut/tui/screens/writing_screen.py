"""Writing a line on the main screen: from the prompt to a trial and onto the list."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual import on

from yardcut.tui.panels.prompt import PromptPanel, PromptState
from yardcut.tui.screens.reopening import ReopeningScreen
from yardcut.tui.screens.view import REST
from yardcut.tui.widgets.grid.model import PreviewSource

if TYPE_CHECKING:
    from yardcut.core.language.completing import Completion
    from yardcut.tui.bench import Bench, Trial
    from yardcut.tui.screens.asking import Question


class WritingScreen(ReopeningScreen):
    """Adds writing to what the panels show."""

    def write(self, text: str, editing: int | None = None) -> None:
        """Open the prompt with some text."""
        self._open_prompt(text)
        if self.bench is None:
            self._write_early()
        else:
            self._begin_writing(self.bench, editing)

    def _open_prompt(self, text: str) -> None:
        self.prompt.enter_now, self.prompt.leave_now = self._entered, self._left
        self.prompt.open(text)

    def _write_early(self) -> None:
        self.prompt.show(PromptState(said="the file is still being read; the line is tried when it is there"))

    def _begin_writing(self, bench: Bench, editing: int | None = None) -> None:
        from yardcut.tui.writing import LineWriter

        writer = LineWriter(bench, self.selected, editing)
        self._writer = writer
        self.prompt.complete_now = lambda before: _options(writer.complete(before))
        self._try(self.prompt.text)

    def _bench_there(self, bench: Bench) -> None:
        super()._bench_there(bench)
        if self.prompt.active and self._question is None:
            self._begin_writing(bench)

    def ask(self, question: Question) -> None:
        """Ask for a line of text in the prompt's place."""
        self._question = question
        self.prompt.complete_now = lambda before: (0, [(option, "") for option in question.options(before)])
        self._open_prompt(question.text)
        self._answer_changed(question.text)

    def _answer_changed(self, text: str) -> None:
        assert self._question is not None
        said, good = self._question.means(text.strip())
        self.prompt.set_options("", 0, [])
        self.prompt.show(PromptState(self._question.lead, said, "$would" if good else "$warning"))

    @on(PromptPanel.Changed)
    def _text_changed(self, event: PromptPanel.Changed) -> None:
        if self._question is not None:
            self._answer_changed(event.text)
        elif self._writer is not None:
            self._try(event.text)

    def _try(self, text: str) -> None:
        writer = self._writer
        assert writer is not None
        before = self.prompt.text_before_cursor()
        self.tasks.start("complete", lambda token, progress: (before, writer.complete(before)), self._completed)
        if not text.strip():
            self.tasks.stop("preview")
            from yardcut.core.language.forms import form_for

            self.prompt.show(PromptState(form=form_for("")))
            return
        self.prompt.show(PromptState(said="…", form=""))
        self.tasks.start("preview", lambda token, progress: writer.attempt(text, token, progress), self._tried,
                           self.say_error)  # fmt: skip

    def _completed(self, found: tuple[str, Completion]) -> None:
        if self._writer is not None:
            self.prompt.set_options(found[0], *_options(found[1]))

    def _tried(self, trial: Trial) -> None:
        writer = self._writer
        if writer is None:
            return
        self.prompt.show(writer.state(trial))
        self._show_trial()

    def _show_trial(self) -> None:
        writer, bench = self._writer, self.bench
        if writer is None or bench is None or writer.trial is None:
            return
        if writer.trial.preview is not None:
            found = writer.trial.preview
            self.grid.show(PreviewSource(found.names, [kind.value for kind in found.kinds], found.rows))
            return
        source = bench.trial_grid(writer.trial, marked=writer.marked)
        if source is not None:
            self.grid.show(source, same_table=True, same_rows=writer.marked)

    def _entered(self, text: str) -> None:
        writer, question = self._writer, self._question
        if question is not None:
            if question.means(text)[1]:
                self._put_prompt_away()
                question.done(text)
            return
        if writer is None:
            self._write_early()
            return
        wrong = writer.wrong(text)
        if wrong is not None:
            self._tried(wrong)
            return
        self.selected = writer.enter(text)
        self._put_prompt_away()
        self._changed()

    def _left(self) -> None:
        self._put_prompt_away()
        self._show_grid()

    def _put_prompt_away(self) -> None:
        self._writer = None
        self._question = None
        self.tasks.stop("preview")
        self.tasks.stop("complete")
        self.prompt.close()
        self.prompt.show(REST)
        self.set_focus(self.grid)

    @on(PromptPanel.MendWanted)
    def _mend(self) -> None:
        if self._writer is not None and self._writer.trial is not None and self._writer.trial.mend is not None:
            self.prompt.set_text(self._writer.trial.mend)

    @on(PromptPanel.MarkedToggled)
    def _marked(self) -> None:
        question = self._question
        if question is not None:
            if question.replaced is not None:
                text = self.prompt.text.strip()
                self._put_prompt_away()
                question.replaced(text)
            return
        if self._writer is not None:
            self._writer.marked = not self._writer.marked
            self._show_trial()

    @on(PromptPanel.EditorWanted)
    def _edit_outside(self) -> None:
        from yardcut.tui.editor import edit_text

        with self.app.suspend():
            text = edit_text(self.prompt.text)
        self.app.refresh()
        if text is not None:
            self.prompt.set_text(text)


def _options(completion: Completion) -> tuple[int, list[tuple[str, str]]]:
    return completion.start, [(option.text, option.detail) for option in completion.options]
