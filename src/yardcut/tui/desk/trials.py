"""A line being written: what it would do, what is wrong with it, what could stand at the cursor. All in threads."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import replace

from yardcut.core.cutlist.further_lines import is_source_line, read_further
from yardcut.core.cutlist.model import FurtherSource, Line
from yardcut.core.errors import ListError, NotReadYetError, SourceError
from yardcut.core.language.helping.completing_lines import Frequent, Values
from yardcut.core.language.lines import with_seed
from yardcut.core.language.meaning.binder import Bound
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.dial_lines import is_dial_line, parse_dial
from yardcut.core.language.syntax.look_lines import is_look, look_body, parse_look
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.source_lines import is_sub_line, parse_sub_line
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.profile.fitting import values_unfit
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, bind_line
from yardcut.core.run.executing.further_sources import read_second
from yardcut.core.run.executing.made_columns import MadeColumn, made_columns
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.mends_offered import mended
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.run.looking.values_for_dials import uses_dial
from yardcut.core.sources.applying import WrongSubLineError
from yardcut.core.sources.form.preview import Preview
from yardcut.core.sources.spec import KindLine, SourceSpec, SubLine
from yardcut.tui.desk.column_looks import Looks
from yardcut.tui.desk.figured_rows import Rows
from yardcut.tui.desk.moment import Moment
from yardcut.tui.opened_with import Opening


@dataclass(frozen=True, slots=True)
class Draft:
    """A line being written: its text, the line selected when it was begun, the one it replaces, and its seed."""

    text: str
    selected: int
    editing: int | None
    seed: int


_MOST_NAMED = 6


@dataclass(frozen=True, slots=True)
class Trial:
    """What a draft would do, or what is wrong with it.

    ``index`` is where it would stand. ``result`` has the rows it would leave; ``mend`` the text with its mistakes put
    right, or as it is likely meant, and ``mend_leaves`` how many rows that would leave; ``likely`` are hints about the
    values. ``is_whole`` is False while there is more to come.
    """

    draft: Draft
    index: int
    result: LineResult | None = None
    error: ListError | None = None
    mend: str | None = None
    mend_leaves: int | None = None
    source_line: SubLine | None = None
    dial: DialSetting | None = None
    further: FurtherSource | None = None
    preview: Preview | None = None
    hints: tuple[str, ...] = ()
    made: tuple[MadeColumn, ...] = ()
    likely: tuple[Hint, ...] = ()
    is_whole: bool = True


def index_of(moment: Moment, draft: Draft) -> int:
    """Return where a draft would stand in the cut."""
    if is_look(draft.text):
        return len(moment.cut.lines)
    if draft.editing is not None:
        return draft.editing
    words = draft.text.split()
    return moment.cut.place_for(draft.selected, words[0].lower() if words else "keep")


def wrong_with(moment: Moment, draft: Draft) -> ListError | None:
    """Return what is wrong with a draft, or ``None``. Quick: nothing is run."""
    try:
        if is_sub_line(draft.text):
            parse_sub_line(draft.text)
        elif is_dial_line(draft.text):
            parse_dial(draft.text)
        elif is_source_line(draft.text):
            read_further(draft.text)
        else:
            scope = moment.scope_at(index_of(moment, draft) - 1)
            _statement(draft)
            _bound(moment, draft, scope)
    except NotReadYetError:  # it is entered, and waits on the list for its table
        return None
    except ListError as error:
        return error
    return None


def _written(draft: Draft) -> str:
    """Return what is parsed and bound of a draft: of a look line what stands behind the word."""
    return look_body(draft.text) if is_look(draft.text) else draft.text


def _statement(draft: Draft) -> Statement:
    return parse_look(draft.text) if is_look(draft.text) else parse_statement(draft.text)


def _bound(moment: Moment, draft: Draft, scope: Scope) -> Bound | None:
    is_first = index_of(moment, draft) == 0
    return bind_line(_written(draft), scope, default_seed=draft.seed, is_first=is_first, earlier=moment.earlier)


def try_line(
    moment: Moment, draft: Draft, looks: Looks, tell: Callable[[Trial], None], token: CancelToken, progress: Progress
) -> Trial:
    """Work out what a draft would do; what is wrong with it is told before anything is counted."""
    other = _try_no_line(moment, draft, token, progress)
    if other is not None:
        return other
    index = index_of(moment, draft)
    trial = Trial(draft, index)
    scope = moment.scope_for_work(index - 1)
    try:
        statement = _statement(draft)
        bound = None if statement.off else _bound(moment, draft, scope)
    except ListError as error:
        text, applied = mended(_written(draft), scope, values_at(moment, index - 1, looks, token))
        if not applied:
            return replace(trial, error=error)
        error = error.with_mend(applied[0])
        text = "look" + text[4:] if is_look(draft.text) else text
        trial = replace(trial, error=error, mend=text, is_whole=False)
        tell(trial)
        if is_look(draft.text):
            return replace(trial, is_whole=True)
        return replace(trial, mend_leaves=_leaves(moment, draft, text, token, progress), is_whole=True)
    tell(replace(trial, hints=bound.hints if bound is not None else (), is_whole=False))
    lines = (*moment.lines[:index], _as_line(draft, statement, bound, scope))
    try:
        results = list(moment.executor.run_bound(lines, token, progress))
    except ListError as error:  # only the rows say that a line makes no sense: this one, or one above
        return _refused(trial, error) if error.statement == lines[-1].line.text else trial
    if len(results) < len(lines):  # a line above is wrong
        return replace(trial, hints=bound.hints if bound is not None else ())
    trial = replace(trial, result=results[-1], hints=bound.hints if bound is not None else ())
    tell(replace(trial, is_whole=False))
    return _with_hints(moment, trial, results[-1], tell, token, progress)


def lines_on(moment: Moment, draft: Draft) -> tuple[BoundLine, ...]:
    """Return the lines of another moment as far as a draft, which is the last of them. Raises ``ListError``."""
    index = index_of(moment, draft)
    scope = moment.scope_for_work(index - 1)
    line = _as_line(draft, _statement(draft), _bound(moment, draft, scope), scope)
    return (*moment.lines[:index], line)


def _as_line(draft: Draft, statement: Statement, bound: Bound | None, scope: Scope) -> BoundLine:
    """Return a draft as it would stand in the cut."""
    below = scope if bound is None else bound.scope
    return BoundLine(Line(_written(draft)), with_seed(statement, draft.seed), bound, below)


def _try_no_line(moment: Moment, draft: Draft, token: CancelToken, progress: Progress) -> Trial | None:
    """Try what is written at the prompt and is no line of a cut: of the source, a dial, a further source."""
    if is_sub_line(draft.text):
        return _try_source_line(moment, draft, token)
    if is_dial_line(draft.text):
        return _try_dial(moment, draft)
    return _try_further(moment, draft, token, progress) if is_source_line(draft.text) else None


def _refused(trial: Trial, error: ListError) -> Trial:
    """Return a trial with what only the rows show to be wrong, and the line as it would be right."""
    return replace(trial, error=error, mend=error.mend.text if error.mend is not None else None)


def _with_hints(
    moment: Moment,
    trial: Trial,
    result: LineResult,
    tell: Callable[[Trial], None],
    token: CancelToken,
    progress: Progress,
) -> Trial:
    """Add what the rows say of the line, the text that is likely meant, and what a made column holds."""
    draft = trial.draft
    trial = replace(trial, likely=line_hints(result, moment.executor, token))
    likely = next((hint.mend for hint in trial.likely if hint.mend), None)
    if likely is not None and not is_look(draft.text):
        trial = replace(trial, mend=likely, mend_leaves=_leaves(moment, draft, likely, token, progress))
    for made in made_columns(result, moment.executor.runner, token):
        trial = replace(trial, made=made)
        tell(replace(trial, is_whole=False))
    return trial


def _try_dial(moment: Moment, draft: Draft) -> Trial:
    """Say what a dial would hold, and which lines use it."""
    trial = Trial(draft, draft.selected)
    try:
        dial = parse_dial(draft.text)
    except ListError as error:
        return replace(trial, error=error)
    using = [str(index + 1) for index, line in enumerate(moment.cut.lines) if uses_dial(line, dial.name)]
    was = next((known for known in moment.cut_list.dials if known.name == dial.name), None)
    before = "" if was is None else f", {was.said()} until now"
    used = f"used by line {', '.join(using)}" if using else f"write :{dial.name} in a line to use it"
    return replace(trial, dial=dial, hints=(f"the dial {dial.name} holds {dial.said()}{before}; {used}",))


def _try_further(moment: Moment, draft: Draft, token: CancelToken, progress: Progress) -> Trial:
    """Say what a further source holds."""
    trial = Trial(draft, draft.selected)
    try:
        source = read_further(draft.text)
        table = read_second(SourceSpec(source.files, source.lines, moment.cut_list.base), token, progress)
    except (ListError, SourceError, WrongSubLineError) as error:
        wrong = error if isinstance(error, ListError) else ListError(error.message, mend=error.mend)
        return replace(trial, error=wrong)
    names = ", ".join(f"{column.name} {column.kind}" for column in table.columns[:_MOST_NAMED])
    more = f" and {len(table.columns) - _MOST_NAMED} more" if len(table.columns) > _MOST_NAMED else ""
    return replace(
        trial,
        further=source,
        hints=(f"{source.name}: {table.rows:,} rows of {names}{more}; bring … from {source.name}",),
    )


def _leaves(moment: Moment, draft: Draft, text: str, token: CancelToken, progress: Progress) -> int | None:
    """Return how many rows a mended line would leave; ``None`` where rows are not its point, or it is wrong too."""
    statement, index = parse_statement(text), index_of(moment, draft)
    if statement.verb not in ("keep", "drop", "draw"):
        return None
    try:
        bound = _bound(moment, replace(draft, text=text), moment.scope_for_work(index - 1))
    except ListError:
        return None
    if bound is None:
        return None
    lines = (*moment.lines[:index], _as_line(replace(draft, text=text), statement, bound, bound.scope))
    try:
        results = list(moment.executor.run_bound(lines, token, progress))
    except ListError:
        return None
    return results[-1].rows.count if len(results) == len(lines) else None


def _try_source_line(moment: Moment, draft: Draft, token: CancelToken) -> Trial:
    """Work out what a sub-line of the source would change, as far as that can be told without reading again."""
    trial = Trial(draft, draft.selected)
    try:
        line = parse_sub_line(draft.text)
    except ListError as error:
        return replace(trial, error=error)
    token.check()
    hints: list[str] = []
    if isinstance(line, KindLine):
        names = [column.name for column in moment.table.columns]
        for selector, declared in line.items:
            places = selector.places(names)
            if not places:
                wrong = ListError(f"no column is called {selector.first}", end=len(draft.text))
                return replace(trial, error=wrong)
            hints += [values_unfit(moment.table, place, declared).sentence() for place in places[:8]]
    token.check()
    preview: Preview | None = None
    with contextlib.suppress(SourceError, ListError):
        preview = Opening(moment.spec.with_line(line)).preview
    return replace(trial, source_line=line, preview=preview, hints=tuple(hints))


def values_at(moment: Moment, selected: int, looks: Looks, token: CancelToken) -> Values:
    """Return what gives the frequent values of columns among the rows as of a line, or of the source meanwhile."""
    frame = moment.frame_at(selected)
    if frame is None:
        return lambda column: Frequent()
    rows = Rows(frame, moment.fingerprint_at(selected))
    return lambda column: looks.frequent(rows, column, token)
