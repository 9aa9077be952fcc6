"""Writing a line: from the prompt to a trial and onto the list."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from textual.app import SuspendNotSupported

from yardcut.core.cutlist.further_lines import is_source_line, read_further
from yardcut.core.errors import ListError, YardcutError
from yardcut.core.language.helping.completing_lines import Completion, complete, complete_source_line
from yardcut.core.language.helping.forms import form_for
from yardcut.core.language.seeds import chosen_seed
from yardcut.core.language.syntax.dial_lines import is_dial_line, parse_dial
from yardcut.core.language.syntax.look_lines import is_look
from yardcut.core.language.syntax.source_lines import is_sub_line, parse_sub_line
from yardcut.core.language.turning.number_steps import number_moved
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.shortening import shortened
from yardcut.tui.desk.grids import trial_source
from yardcut.tui.desk.trials import Draft, Trial, index_of, try_line, values_at, wrong_with
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.prompting.said import TABLE_AS_BEFORE, TABLE_AS_LEFT, said_of
from yardcut.tui.panels.prompt import PromptState
from yardcut.tui.widgets.grid.grid_source import PreviewSource
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage


_CHARACTERS_A_SECOND, _LONGEST_PAUSE = 20_000, 0.8
"""A line is read once nobody has typed for a moment that grows with it: reading a long one cannot be given up."""


_MOST_KEPT = 200
"""Lines that can be brought back."""


class Writing:
    """The mode of a line being written. Its seed is chosen when it is begun, and is the one that is written.

    It may begin before the table is open; the line is tried when it is.
    """

    focus = Focus.PROMPT

    def __init__(self, stage: Stage, showing: Showing, close: Callable[[bool], None], editing: int | None,
        find: Callable[[str], None],) -> None:  # fmt: skip
        self._stage = stage
        self._showing = showing
        self._close = close
        self._editing = editing
        self._find = find
        self._seed = chosen_seed()
        self._selected = stage.desk.now.selected if stage.desk is not None else None
        self._marked: bool | None = None
        self._trial: Trial | None = None
        self._trying = self._not_tried = ""
        self.shows_rows = False
        """True while the grid shows what the line would do."""
        self._notice = self._recalled = self._of_all = ""
        self._place = 0
        self._shows_left = False
        """True while the grid shows rows as a line being written would leave them."""

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        prompt = self._stage.prompt
        return {
            "enter": self._enter,
            "complete": self._complete,
            "pick-up": lambda: None if self._recall(1) else prompt.pick(-1),
            "pick-down": lambda: None if self._recall(-1) else prompt.pick(1),
            "mend": self._mend,
            "marked": self._toggle_marked,
            "number-up": lambda: self._move_number(1),
            "number-down": lambda: self._move_number(-1),
            "break": self._break,
            "editor": self._edit_outside,
            "form": self._show_form,
            "prompt-stop": self._leave,
        }

    def _draft(self, text: str) -> Draft:
        assert self._stage.desk is not None
        selected = self._selected if self._selected is not None else self._stage.desk.now.selected
        return Draft(text.strip(), selected, self._editing, self._seed)

    # trying

    def text_changed(self, text: str) -> None:
        """Try the line as it stands now."""
        stage = self._stage
        before = stage.prompt.text_before_cursor()
        stage.jobs.stop(Job.TRY)
        self._trial, self._notice, self._of_all = None, "", ""
        if stage.desk is None or stage.looks is None:
            stage.prompt.show(PromptState(said="the source is still being read; the line is tried when it is there"))
            return
        moment = stage.desk.now
        pause = min(_LONGEST_PAUSE, len(text) / _CHARACTERS_A_SECOND)

        def look(token: CancelToken, progress: Progress) -> tuple[str, Completion]:
            token.wait(pause)
            return before, self._options(moment, before, token)

        stage.jobs.start(Job.COMPLETE, look, self._completed)
        if not text.strip():
            stage.prompt.show(PromptState(form=form_for("")))
            self._show_rows()
            return
        stage.prompt.show(PromptState(said="…" + (TABLE_AS_BEFORE if self._shows_left else ""), form=form_for(text)))
        self._try(text, pause)

    def _try(self, text: str, pause: float = 0.0, *, quietly: bool = False) -> None:
        """Try a text on the rows of now; ``quietly``: what is said of it stays until all is known."""
        stage = self._stage
        if stage.desk is None or stage.looks is None:
            return
        moment, draft, looks = stage.desk.now, self._draft(text), stage.looks
        self._trying = draft.text

        def work(token: CancelToken, progress: Progress) -> Trial:
            token.wait(pause)
            tell = lambda trial: None if quietly else stage.jobs.tell(token, self._tried, trial)  # noqa: E731
            return try_line(moment, draft, looks, tell, token, progress)

        stage.jobs.start(Job.TRY, work, self._tried, self._failed)

    def moment_changed(self, before: Moment, now: Moment) -> None:
        """Try the line on the table that is open now."""
        if now.table is not before.table:
            self._not_tried = ""
            text = self._stage.prompt.text
            if before.table.share_read < 1 and self._trial is not None and text.strip():
                self._try(text, quietly=True)  # more rows of the same source, or all of them
            else:
                self.text_changed(text)

    @property
    def is_tried(self) -> bool:
        """True when what is wrong with the line as it stands now is known."""
        text = self._stage.prompt.text.strip()
        if not text or text == self._not_tried:
            return True
        if self._trial is not None and self._trial.draft.text == text:
            return True
        if text != self._trying:
            self.text_changed(self._stage.prompt.text)  # the news of the last letters is still on its way
        return False

    def _tried(self, trial: Trial) -> None:
        self._trial = trial
        self._say(trial)
        self._show_rows()
        self._stage.when_tried(trial, lambda said: self._hear_of_all(trial.draft, said))
        self._stage.dispatcher.release()

    def _hear_of_all(self, draft: Draft, said: str) -> None:
        """Take what the line would do to all rows, while these still come."""
        if said != self._of_all and self._trial is not None and self._trial.draft == draft:
            self._of_all = said
            self._say(self._trial)

    def _say(self, trial: Trial) -> None:
        """Say what a trial gave, and below it what was to be noted of the text as it stands."""
        if trial.result is not None:
            self._shows_left = not self._shows_marked(trial.result)
        as_left = TABLE_AS_LEFT if trial.result is not None else TABLE_AS_BEFORE
        state = said_of(trial, as_left if self._shows_left else "", self._of_all)
        said = "\n".join(filter(None, (state.said, self._notice)))
        self._stage.prompt.show(replace(state, said=said))

    def _note(self, text: str) -> None:
        """Say something of the text, which stays until the text is another."""
        self._notice = text
        if self._trial is not None:
            self._say(self._trial)
        else:
            self._stage.prompt.show(PromptState(said=text, style="$warning", form=form_for(self._stage.prompt.text)))

    def _failed(self, error: YardcutError) -> None:
        self._not_tried = self._trying
        self._stage.say_error(error)
        self._stage.dispatcher.release()

    def _show_rows(self) -> None:
        """Show the rows the line works on, marked by what it would take, or those it would leave."""
        stage, trial = self._stage, self._trial
        if trial is None or stage.desk is None or (trial.result is None and trial.preview is None):
            if trial is None or trial.is_whole:
                self._show_moment()
            return
        self.shows_rows = True
        self._showing.forget_rows()
        if trial.preview is not None:
            found = trial.preview
            stage.grid.show(PreviewSource(found.names, [kind.value for kind in found.kinds], found.rows))
        elif trial.result is not None:
            source = trial_source(stage.desk.now, trial.result, trial.index, marked=self._shows_marked(trial.result))
            stage.grid.show(source, same_table=True)

    def _show_moment(self) -> None:
        """Nothing is known of the line: the grid shows the table as it is, without marks of an earlier text."""
        if self.shows_rows:
            self.shows_rows = self._shows_left = False
            self._showing.show_rows()

    # completing

    def _options(self, moment: Moment, before: str, token: CancelToken) -> Completion:
        looks = self._stage.looks
        assert looks is not None
        if is_sub_line(before):
            columns = [(column.name, column.kind.value) for column in moment.table.columns]
            return complete_source_line(before, columns)
        index = index_of(moment, self._draft(before))
        return complete(before, moment.scope_for_work(index - 1), values_at(moment, index - 1, looks, token))

    def _completed(self, found: tuple[str, Completion]) -> None:
        before, completion = found
        options = [(option.text, option.detail) for option in completion.options]
        self._stage.prompt.set_options(before, completion.start, options, is_asked_for=not completion.goes_on)

    def _complete(self) -> None:
        stage = self._stage
        before = stage.prompt.text_before_cursor()
        if not stage.prompt.has_options_for(before) and stage.desk is not None:
            stage.jobs.stop(Job.COMPLETE)
            self._completed((before, self._options(stage.desk.now, before, CancelToken())))
        stage.prompt.complete()

    # ending

    def _enter(self) -> None:
        stage = self._stage
        text = stage.prompt.text.strip()
        assert stage.desk is not None
        if not text:
            self._leave()
            return
        desk, draft = stage.desk, self._draft(text)
        tried = self._trial if self._trial is not None and self._trial.draft.text == text else None
        wrong = wrong_with(desk.now, draft) or (tried.error if tried is not None else None)
        if wrong is not None:
            if self._trial is None or self._trial.error is None:
                self._tried(Trial(draft, index_of(desk.now, draft), error=wrong))
            return
        self.shows_rows = False
        try:
            if is_sub_line(text):
                desk.edits.add_source_line(parse_sub_line(text))
                self._close(True)
                return
            if is_source_line(text):
                desk.edits.become(desk.now.cut_list.with_further(read_further(text)))
            elif is_dial_line(text):
                desk.edits.set_dial(parse_dial(text))
            elif is_look(text):
                desk.edits.look(text)
            elif self._editing is not None:
                desk.edits.rewrite(self._editing, text, self._seed)
            else:
                desk.edits.enter(text, draft.selected, self._seed)
        except ListError as error:
            stage.say_error(error)
            return
        self._keep(text)
        self._close(False)

    def _leave(self) -> None:
        """Put the line away; one that is right is not lost, and it is said how it comes back."""
        stage, text = self._stage, self._stage.prompt.text.strip()
        is_right = self._trial is not None and self._trial.result is not None and self._trial.draft.text == text
        self.shows_rows = False
        self._keep(text)
        self._close(is_right)
        self._showing.show_rows()
        if is_right:
            write, back = key_of("write"), key_of("pick-up")
            stage.say(f"not entered: {shortened(text)}   ({write}, then {back} brings it back)", "$warning")

    # lines written before

    def _keep(self, text: str) -> None:
        """Keep a line that was entered or put away, to be brought back."""
        lines = self._stage.lines_written
        if text and text not in lines[-1:]:
            lines.append(text)
            del lines[:-_MOST_KEPT]

    def _recall(self, older: int) -> bool:
        """Bring back a line that was written before, while none is begun; ``False`` where that is not meant."""
        prompt, lines = self._stage.prompt, self._stage.lines_written
        if prompt.text.strip() and prompt.text != self._recalled:
            return False
        self._place = 0 if not prompt.text.strip() else self._place
        place = self._place + older
        if not lines or place < 1:
            return bool(self._recalled) and bool(prompt.text)
        self._place = min(place, len(lines))
        self._recalled = lines[-self._place]
        prompt.set_text(self._recalled)
        return True

    def close(self) -> None:
        """Stop trying and completing."""
        self._trial = None
        self._stage.jobs.stop(Job.TRY)
        self._stage.jobs.stop(Job.COMPLETE)

    # other keys

    def _mend(self) -> None:
        """Put the text right; where there is no mend, say so beside what is wrong."""
        trial, prompt = self._trial, self._stage.prompt
        if trial is not None and trial.mend is not None:
            prompt.set_text(trial.mend)
            return
        self._note(
            "nothing is wrong here" if trial is None or trial.error is None else "no mend is likely enough to offer"
        )

    def _shows_marked(self, result: LineResult) -> bool:
        """Tell whether the rows are shown as they reach the line; at first so for conditions, which mark them."""
        if self._marked is not None:
            return self._marked
        return result.line.statement is None or result.line.statement.verb not in ("order", "draw")

    def _toggle_marked(self) -> None:
        if self._trial is not None and self._trial.result is not None:
            self._marked = not self._shows_marked(self._trial.result)
            self._say(self._trial)
            self._show_rows()

    def _move_number(self, steps: int) -> None:
        """Make the number at the cursor larger or smaller by its last digit."""
        prompt = self._stage.prompt
        moved = number_moved(prompt.text, steps, len(prompt.text_before_cursor()))
        if moved is not None:
            prompt.set_text(moved[0], moved[2])

    def _break(self) -> None:
        """Break the line at its joints, or write it on one line again."""
        from yardcut.core.language.lines import broken
        from yardcut.core.language.syntax.parsing_lines import parse_statement

        prompt = self._stage.prompt
        text = prompt.text.strip()
        if "\n" in text:
            prompt.set_text(_joined(text))
            return
        try:
            parts = broken(parse_statement(text), text)
        except ListError:
            return
        prompt.set_text("\n    ".join(parts))

    def _edit_outside(self) -> None:
        from yardcut.tui.editor import edit_text

        stage = self._stage
        try:
            with stage.app.suspend():
                text = edit_text(stage.prompt.text)
        except YardcutError as error:
            self._note(str(error))
        except SuspendNotSupported:
            self._note("this terminal cannot be lent to an editor")
        else:
            stage.prompt.set_text("")
            stage.prompt.take_text(text)
        stage.app.refresh()

    def _show_form(self) -> None:
        words = self._stage.prompt.text.split()
        verb = words[1] if len(words) > 1 and words[0].lower() == "off" else words[0] if words else ""
        self._find(verb.lower())


def _joined(text: str) -> str:
    """Write lines as one; what stands within a line, quotes and all, stays."""
    return " ".join(line.strip() for line in text.split("\n"))
