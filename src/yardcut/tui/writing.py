"""Writing a line: what the prompt shows while it is typed, and putting the line on the list."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.language.forms import form_for
from yardcut.core.language.source_lines import is_sub_line, parse_sub_line
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.panels.prompt import PromptState
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.core.language.completing import Completion
    from yardcut.tui.bench import Bench, Trial


def said_of(trial: Trial, place: int) -> PromptState:
    """Return what the prompt says of a line being written."""
    form = form_for(trial.text)
    if trial.error is not None:
        return _said_of_error(trial, trial.error, form)
    result = trial.result
    if trial.source_line is not None:
        said = "changes how the source is read; it is read again"
        return PromptState(said="\n".join([said, *trial.hints]), style="$would", form=form)
    if result is None:
        return PromptState(said="…", form=form)
    before, left = result.before.rows.count, result.rows.count
    if result.line.off:
        said = "switched off: takes nothing"
    elif result.line.line.verb in ("columns", "save", "make"):
        said = f"leaves all {plural(before, 'row')}, {plural(len(result.shown), 'column')}"
    elif result.line.line.verb == "order":
        said = f"puts {plural(before, 'row')} in order"
    else:
        said = f"would leave {left:,} of {before:,}"
        taken = result.taken - (result.unknown_taken if result.unknown is not None else 0)
        said += f" · takes {taken:,}" if taken else " · takes none"
        if result.unknown_taken:
            said += f", and {result.unknown_taken:,} for want of a value"
    said += f"   (as line {place})"
    notes = [*result.notes, *(f"! {hint}" for hint in trial.hints)]
    if "draw" in result.line.line.text.split()[:2]:
        notes = [note for note in notes if not note.startswith("seed 0")]
    if notes:
        said += "\n" + " · ".join(notes)
    return PromptState(said=said, style="$would", form=form)


def _said_of_error(trial: Trial, error: ListError, form: str) -> PromptState:
    said = error.message
    if error.mend is not None:
        said += f"; {error.mend.says}"
    if trial.mend is not None:
        said += f"\nF2 writes  {trial.mend}"
    return PromptState(said=said, style="$warning", form=form, error=(error.start, error.end))


class LineWriter:
    """The state of writing one line: where it goes, what it replaces, the newest trial of it."""

    def __init__(self, bench: Bench, selected: int, editing: int | None) -> None:
        self.bench = bench
        self.selected = selected
        self.editing = editing
        self.marked = True
        self.trial: Trial | None = None

    def attempt(self, text: str, token: CancelToken, progress: Progress) -> Trial:
        """Work out what the line would do (in a thread)."""
        return self.bench.try_line(text, self.selected, self.editing, token, progress)

    def complete(self, before_cursor: str) -> Completion:
        """Work out what could stand at the cursor (in a thread)."""
        index = self.selected if self.editing is None else self.editing - 1
        return self.bench.completions(before_cursor, index)

    def state(self, trial: Trial) -> PromptState:
        """Return what the prompt says of a trial."""
        self.trial = trial
        place = self.bench.place_of(trial.text, self.selected, self.editing)
        return said_of(trial, place)

    def wrong(self, text: str) -> Trial | None:
        """Return what is wrong with a line; ``None`` when it can go on the list, whose count is not waited for."""
        return self.bench.wrong_with(text, self.selected, self.editing)

    def enter(self, text: str) -> int:
        """Put the line on the list; returns its index. Raises ``ListError``."""
        session = self.bench.session
        if is_sub_line(text):
            session.add_source_line(parse_sub_line(text))
            return self.selected
        if self.editing is not None:
            session.rewrite(self.editing, text)
            return self.editing
        return session.enter(text, self.selected)
