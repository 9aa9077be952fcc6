"""From one moment to another, without the desk: lines bound to a table, results taken in. Threads may do it too."""

from __future__ import annotations

import operator
from collections.abc import Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.syntax.look_lines import look_body
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.further_sources import further_of
from yardcut.core.run.explaining.pattern_matches import Matches, with_differences

if TYPE_CHECKING:
    from yardcut.core.errors import ListError
    from yardcut.core.run.executing.executor import Executor
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment


def bound(moment: Moment, patterns: Matches) -> Moment:
    """Return a moment with the lines of its cut bound to its table; ``patterns`` say what those met in the last run."""
    cut, table = moment.cut, moment.table
    looks = tuple(replace(line, text=look_body(line.text).strip()) for line in cut.looks)
    both = replace(cut, lines=(*cut.lines, *looks), looks=())
    found = bind_cut(
        both, table, default_seed=moment.seed, earlier=moment.cut_list.cuts[: moment.cut_index],
        dials=moment.cut_list.dials, further=further_of(moment.cut_list, reads=False),
    )  # fmt: skip
    lines = tuple(with_differences(found[: len(cut.lines)], source_scope(table), patterns))
    selected = max(-1, min(moment.selected, len(lines) - 1))
    return replace(moment, lines=lines, asked=lines, selected=selected, looks=tuple(found[len(cut.lines) :]))


def on_table(moment: Moment, table: Table, executor: Executor, patterns: Matches) -> Moment:
    """Return the same list at work on another table, nothing of it counted."""
    return bound(replace(moment, table=table, executor=executor, results=(), looked=None, part=None, was={}), patterns)


def with_results(moment: Moment, results: Sequence[LineResult]) -> Moment:
    """Return a moment with the results of its first lines, and of the look lines behind them, as far as they are."""
    own, more = results[: len(moment.lines)], results[len(moment.lines) :]
    lines = list(moment.lines)
    for place, result in enumerate(own):
        if lines[place].scope.open or lines[place].later is not None:
            lines[place] = result.line  # its columns are known now
    found = tuple(lines) if any(map(operator.is_not, lines, moment.lines)) else moment.lines
    return replace(moment, lines=found, results=tuple(own), looked=more[-1] if more else None)


def with_wrong(moment: Moment, index: int, error: ListError) -> Moment:
    """Return a moment of which a line makes no sense with the rows that reach it, though it does with their columns."""
    lines = list(moment.lines)
    lines[index] = replace(lines[index], bound=None, error=error)
    return replace(moment, lines=tuple(lines), results=moment.results[:index], looked=None)
