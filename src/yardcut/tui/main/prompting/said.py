"""What the prompt says of a line being written."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.language.helping.forms import form_for
from yardcut.core.language.syntax.look_lines import is_look
from yardcut.core.language.verbs.verb import Effect
from yardcut.core.values.kinds import a_kind
from yardcut.tui.panels.list_entries import for_want
from yardcut.tui.panels.prompt import PromptState
from yardcut.tui.text import MISSING, fit, glance, plural

TABLE_AS_LEFT = "   the table: as it would be"
TABLE_AS_BEFORE = "   the table: as it would have been before this change"
_MOST_REASONS = 4
_VALUE_WIDTH = 16

if TYPE_CHECKING:
    from yardcut.core.expressions.absence import Absence
    from yardcut.core.run.executing.made_columns import MadeColumn
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.trials import Trial


def said_of(trial: Trial, table: str = "", of_all: str = "") -> PromptState:
    """Return what the prompt says of a trial.

    ``table`` is said where that shows no rows that are there already, ``of_all`` of rows that still come.
    """
    form = form_for(trial.draft.text)
    if trial.error is not None:
        return _of_error(trial, trial.error, form)
    if trial.source_line is not None:
        said = "changes how the source is read; it is read again"
        return PromptState(said="\n".join([said, *trial.hints]), style="$would", form=form)
    if trial.dial is not None or trial.further is not None:
        return PromptState(said="\n".join(trial.hints), style="$would", form=form)
    if trial.result is None:
        said = f"…{table}" if not trial.is_whole else "a line above is wrong: nothing can be counted here"
        return PromptState(said=said, form=form)
    said, style = _of_result(trial.result)
    said += (
        "   (to look only: the cut stays as it is)" if is_look(trial.draft.text) else f"   (as line {trial.index + 1})"
    )
    said += table
    said += f"\n{of_all}" if of_all else ""
    for column in reversed(trial.made):  # the one being written first
        said += "\n" + _of_made(column)
    said += "".join(f"\n{hint.says}" for hint in trial.likely if hint.is_note)
    hints = dict.fromkeys([*trial.hints, *(hint.says for hint in trial.likely if not hint.is_note)])
    notes = [*trial.result.notes, *(f"! {hint}" for hint in hints)]
    if notes:
        said += "\n" + " · ".join(notes)
    said += _of_mend(trial)
    return PromptState(said=said, style=style, form=form)


def _of_made(column: MadeColumn) -> str:
    """Say what a column that is being made would hold, and why it has no value where it has none."""
    values = " · ".join(
        MISSING if value is None else fit(glance(value), _VALUE_WIDTH).rstrip() for value in column.first
    )
    said = f"{column.name} is {a_kind(column.kind)}: {values or 'no rows'}"
    if column.missing is None:
        return f"{said}   …"
    absent = sum(column.missing.values())
    if not absent:
        return f"{said}   every row has one"
    reasons = [f"{count:,} {_reason(absence)}" for absence, count in column.missing.items()]
    shown = ", ".join(reasons[:_MOST_REASONS]) + (", …" if len(reasons) > _MOST_REASONS else "")
    return f"{said}   {absent:,} of {column.rows:,} have none: {shown}"


def _reason(absence: Absence) -> str:
    return f"no answer to {absence.text}" if absence.is_unanswered else absence.text


def _of_result(result: LineResult) -> tuple[str, str]:
    """Return what a line would do, and the style of saying it: what takes all or nothing is no success."""
    before, left = result.before.rows.count, result.rows.count
    verb = result.line.verb
    if result.line.off or verb is None:
        return "switched off: takes nothing", "$dim"
    if verb.effect in (Effect.SHAPES, Effect.WRITES) and before == left:
        return f"leaves all {plural(before, 'row')}, {plural(len(result.shown), 'column')}", "$would"
    if verb.effect is Effect.ARRANGES:
        return f"puts {plural(before, 'row')} in order", "$would"
    if verb.effect is Effect.GATHERS:
        return (
            f"puts {plural(before, 'row')} together: {plural(left, 'row')}, {plural(len(result.shown), 'column')}",
            "$would",
        )
    said = f"would leave {left:,} of {before:,}"
    if verb.effect is Effect.SHAPES and left > before:
        return f"makes {plural(left, 'row')} of {before:,}", "$would"
    if result.members is not result.rows:
        return f"{said} · {result.taken:,} never drawn", "$would"
    taken = result.taken - (result.unknown_taken if result.unknown is not None else 0)
    said += f" · takes {taken:,}" if taken else " · takes none"
    if result.unknown_taken:
        said += f", and {for_want(result).replace(' of them', '')}"
    if left == 0:
        return said, "$warning"
    return said, "$would" if result.taken else "$dim"


def _of_mend(trial: Trial) -> str:
    if trial.mend is None:
        return ""
    leaves = "" if trial.mend_leaves is None else f"   (would leave {trial.mend_leaves:,})"
    return f"\nF2 writes  {trial.mend}{leaves}"


def _of_error(trial: Trial, error: ListError, form: str) -> PromptState:
    said = error.message
    if error.mend is not None and not (trial.mend is not None and trial.mend in error.mend.says):
        said += f"; {error.mend.says}"
    said += _of_mend(trial)
    return PromptState(said=said, style="$warning", form=form, error=(error.start, error.end))
