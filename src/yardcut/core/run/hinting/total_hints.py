"""A total among the rows: one value of a column that a line groups or restricts by, whose rows add up all others."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.lines import statement_text
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_named, columns_of
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.profile.totals import total_among
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_MOST_VALUES, _MOST_COLUMNS = 2_000, 3


def total_hints(result: LineResult, executor: Executor, token: CancelToken) -> Iterator[Hint]:
    """Yield a hint for each text column of the line among whose values a total is left."""
    body = result.line.bound.body if result.line.bound is not None else None
    rows = result.rows if isinstance(body, BoundFilter) else result.before.rows
    runner = executor.runner.over(result.before.table)
    for column in _columns(result)[:_MOST_COLUMNS]:
        token.check()
        found = distinct_values(column.value, rows, runner, token, most=_MOST_VALUES)
        if not found.is_whole:
            continue
        total = total_among(column, found.values, result.before.columns, rows, runner, token)
        if total is not None:
            says = f"{quote_text(total[0])} looks like totals: the sum of its {total[1]} is about that of all others"
            yield Hint(says, _without(result, column.name, total[0]))


def _columns(result: LineResult) -> Sequence[b.ShownColumn]:
    """Return the stored text columns of few values that a line restricts or groups by."""
    body = result.line.bound.body if result.line.bound is not None else None
    if isinstance(body, BoundFilter):
        values: set[b.BoundValue] = set(columns_named(body.condition))
    elif isinstance(body, BoundDraw):
        values = set(body.groups)
    else:
        return ()
    stored = result.before.table.columns
    return [
        column
        for column in result.before.columns
        if column.kind is Kind.TEXT
        and column.value in values
        and all(stored[at].is_loaded and stored[at].info.storage == "codes" for at in columns_of(column.value))
    ]


def _without(result: LineResult, name: str, text: str) -> str:
    """Write a keep or drop so that it takes the totals too; "" for a draw, which restricts nothing."""
    statement = result.line.statement
    if statement is None or not isinstance(statement.body, Keep | Drop):
        return ""
    column, value = t.Name(name), t.Text(text)
    condition = statement.body.condition
    if isinstance(statement.body, Keep):
        other: t.Expression = t.And((condition, t.Distinct(column, value)))
    else:
        other = t.Or((condition, t.Comparison("=", column, value)))
    return statement_text(replace(statement, body=replace(statement.body, condition=other)))
