"""Values of all rows that reach a line, put in their place when the line runs."""

from __future__ import annotations

from dataclasses import fields, is_dataclass, replace
from typing import Any

from yardcut.core.cached import Kept
from yardcut.core.expressions.frame import Frame
from yardcut.core.language import tree as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.run.executing.aggregates import AGGREGATES
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.group_values import one_group, rows_where, value_of_groups
from yardcut.core.run.executing.works.work import Tools
from yardcut.core.values.kinds import Kind

_LIMIT_BYTES = 32 << 20
_CONSTANT_BYTES = 512


class WholeValues:
    """Keeps what was worked out under what reached the line, so that it is not worked out again while that is so."""

    def __init__(self) -> None:
        self._kept: Kept[tuple[str, b.Whole], b.BoundValue] = Kept(_LIMIT_BYTES, _size_of)

    def value(self, whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
        """Return what stands in place of a value of all rows; ``before`` tells the rows that reach the line."""
        alike = replace(whole, line=0)
        return self._kept.get_or((before, alike), lambda: _worked_out(alike, frame, before, tools))


class Resolver:
    """Puts values in their places for the lines of one run, from top to bottom."""

    def __init__(self, wholes: WholeValues) -> None:
        self._wholes = wholes
        self._known: dict[b.Whole, b.BoundValue] = {}

    def line(self, line: BoundLine, frame: Frame, before: str, tools: Tools) -> BoundLine:
        """Return a line with nothing left to find out in it, nor in the columns it leaves."""
        if line.bound is None or isinstance(line.bound.body, BoundFrom):  # which has lines of its own to be run
            return self._with_scope(line) if self._known else line
        for whole in wholes_in(line.bound.body):
            if whole not in self._known:
                inner = replace(whole, values=_replaced(whole.values, self._known))
                self._known[whole] = self._wholes.value(inner, frame, before, tools)
        if not self._known:
            return line
        bound = replace(line.bound, body=_replaced(line.bound.body, self._known))
        return self._with_scope(replace(line, bound=bound))

    def _with_scope(self, line: BoundLine) -> BoundLine:
        scope = line.scope
        shown, known = _replaced(scope.shown, self._known), _replaced(scope.known, self._known)
        return (
            line
            if shown is scope.shown and known is scope.known
            else replace(line, scope=replace(scope, shown=shown, known=known))
        )


def wholes_in(plan: object) -> list[b.Whole]:
    """Return the values of all rows that a plan speaks of, those within others first."""
    if isinstance(plan, tuple):
        return [whole for part in plan for whole in wholes_in(part)]
    if not is_dataclass(plan) or isinstance(plan, t.Node):
        return []
    found = [whole for part in fields(plan) for whole in wholes_in(getattr(plan, part.name))]
    return [*found, plan] if isinstance(plan, b.Whole) else found


def _replaced(plan: Any, known: dict[b.Whole, b.BoundValue]) -> Any:
    """Return a plan with values in their places; the very same where there are none."""
    if isinstance(plan, b.Whole):
        return known.get(plan, plan)
    if isinstance(plan, tuple):
        parts = [_replaced(part, known) for part in plan]
        return plan if all(one is other for one, other in zip(parts, plan, strict=True)) else tuple(parts)
    if not is_dataclass(plan) or isinstance(plan, t.Node):
        return plan
    changed: dict[str, Any] = {}
    for part in fields(plan):
        value = getattr(plan, part.name)
        found = _replaced(value, known)
        if found is not value:
            changed[part.name] = found
    return replace(plan, **changed) if changed else plan  # type: ignore[type-var]


def _size_of(value: b.BoundValue) -> int:
    return _CONSTANT_BYTES + (value.nbytes if isinstance(value, b.Flags | b.Spread) else 0)


def _worked_out(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    if tools.progress is not None:
        tools.progress.begin("looking at rows", tools.runner.table.rows)
    if whole.per:
        return value_of_groups(whole, frame, before, tools)
    if whole.where is not None:
        frame = frame.with_rows(rows_where(whole.where, frame.rows, tools))
    if not whole.values:
        return b.Constant(Kind.INTEGER, frame.rows.count)
    aggregate = AGGREGATES.get(whole.function)
    return one_group(whole, frame, tools) if aggregate is None else aggregate(whole, frame, before, tools)
