"""The values a dial can be given, with the rows its line would leave: what a list is picked from, and run for each."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.frame import source_frame, source_scope
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.dials_put_in import DialSetting, dials_in, held_text
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.profile.distinct import MOST_VALUES, DistinctValues, distinct_values
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import bind_cut, day_of_now
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.further_sources import further_of


@dataclass(frozen=True, slots=True)
class Offered:
    """The values of a column that a dial is picked from, and the line (from 0) they are counted behind, or all."""

    column: str
    line: int | None
    values: DistinctValues


def column_offered(dial: DialSetting, cut: Cut) -> t.Expression | None:
    """Return the column whose values a dial is picked from: what its line says, or what it is compared with."""
    if dial.offered is not None:
        return dial.offered
    for line in cut.lines:
        try:
            statement = line.statement()
        except ListError:
            continue
        for node in _nodes(statement):
            match node:
                case t.Comparison("=" | "<>", t.Name() as column, t.Dial(name)) if name == dial.name:
                    return column
                case t.In(t.Name() as column, items) if any(item == t.Dial(dial.name) for item in items):
                    return column
    return None


def _nodes(root: t.Node) -> Iterator[t.Node]:
    waiting: list[object] = [root]
    while waiting:
        part = waiting.pop(0)
        if isinstance(part, t.Node):
            yield part
            waiting += t.parts_of(part)
        elif isinstance(part, tuple):
            waiting += part


def uses_dial(line: Line, dial: str) -> bool:
    """Tell whether a line uses a dial, on or off."""
    if f":{dial}" not in line.text:
        return False
    try:
        return dial in dials_in(line.statement())
    except ListError:
        return False


def first_line_with(dial: str, cut: Cut) -> int | None:
    """Return the first line (from 0) that is on and uses a dial."""
    using = (index for index, line in enumerate(cut.lines) if not line.is_off and uses_dial(line, dial))
    return next(using, None)


def offered_values(
    name: str, cut_list: CutList, index: int, executor: Executor, token: CancelToken,
    progress: Progress | None = None, *, seed: int = 0, today: int | None = None, unused_too: bool = False,
) -> Offered:  # fmt: skip
    """Count the values of a dial's column among the rows that its line lets through while the dial is empty.

    What other dials hold narrows them. With ``unused_too`` those of a dial that no line uses, of the rows left.
    Raises ``ListError`` where no column says what it can be, or a line is wrong.
    """
    cut, dial = cut_list.cuts[index], cut_list.dial(name)
    column = column_offered(dial, cut)
    line = first_line_with(name, cut)
    if column is None or (line is None and not unused_too):
        why = "no line of the cut uses it" if line is None else "nothing says of which column its values are"
        raise ListError(f"the dial {name}: {why}", mend=Mend(f"dial {name} = … from column species"))
    dials = tuple(replace(each, values=()) if each.name == name else each for each in cut_list.dials)
    bound = bind_cut(
        replace(cut, lines=cut.lines if line is None else cut.lines[: line + 1]), executor.runner.table,
        default_seed=seed, today=today, earlier=cut_list.cuts[:index], dials=dials, further=further_of(cut_list),
    )  # fmt: skip
    wrong = next((each.error for each in bound if each.error is not None), None)
    if wrong is not None:
        raise wrong
    results = list(executor.run_bound(bound, token, progress))
    frame = results[-1].frame if results else source_frame(executor.runner.table)
    scope = results[-1].line.scope if results else source_scope(executor.runner.table)
    value = Binder(scope, "", Fixed(day_of_now() if today is None else today)).value(column)
    found = distinct_values(value, frame.rows, executor.runner.over(frame.table), token, progress)
    return Offered(expression_text(column), line, found)


def values_for_each(
    name: str, cut_list: CutList, index: int, executor: Executor, token: CancelToken, progress: Progress | None = None
) -> tuple[str, ...]:
    """Return the values a cut is run for: those a dial holds where these are several, else those it can be given.

    Raises ``ListError`` where nothing says which these are, or they are too many.
    """
    dial = cut_list.dial(name)
    if len(dial.values) > 1:
        return tuple(held_text(replace(dial, values=(value,))) or "" for value in dial.values)
    if dial.low is not None and dial.high is not None and dial.step is not None:
        count = int((dial.high - dial.low) / dial.step) + 1
        _check_number(name, count)
        return tuple(str(dial.low + place * dial.step) for place in range(count))
    found = offered_values(name, cut_list, index, executor, token, progress).values
    _check_number(name, found.distinct)
    return tuple(text for text, _ in found.values)


def _check_number(name: str, values: int) -> None:
    if values > MOST_VALUES:
        raise ListError(f"the dial {name} has {values:,} values, and a run for each of them is too many")
