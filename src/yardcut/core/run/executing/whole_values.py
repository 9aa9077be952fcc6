"""What becomes known when a line runs, put in its place: values of all rows that reach it, values of a second table."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields, replace
from typing import Any

from yardcut.core.cached import Kept
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_second import Brought
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.run.executing.aggregates import AGGREGATES
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.group_values import one_group, rows_where, value_of_groups
from yardcut.core.run.executing.looked_up import LookedUp
from yardcut.core.run.executing.second_values import brought_value, listed_value
from yardcut.core.run.executing.works.work import Tools
from yardcut.core.scanning.plan_parts import is_leaf, parts_within
from yardcut.core.table.rowset import RowSet
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
        self._known: dict[b.BoundValue, b.BoundValue] = {}
        self._asked: list[b.SecondValue] = []

    def line(self, line: BoundLine, frame: Frame, before: str, tools: Tools) -> BoundLine:
        """Return a line with nothing left to find out in it, nor in the columns it leaves."""
        if line.bound is None or isinstance(line.bound.body, BoundFrom):  # which has lines of its own to be run
            return self.with_scope(line) if self._known else line
        asked: list[b.SecondValue] = []
        for waiting in waiting_in(line.bound.body):
            if waiting not in self._known and not (isinstance(waiting, Brought) and waiting.matching.every):
                self._known[waiting] = self._value(waiting, frame, before, tools, asked)
        self._asked = asked
        if not self._known:
            return line
        bound = replace(line.bound, body=_replaced(line.bound.body, self._known))
        return self.with_scope(replace(line, bound=bound))

    def _value(
        self, waiting: Waiting, frame: Frame, before: str, tools: Tools, asked: list[b.SecondValue]
    ) -> b.BoundValue:
        inner = _replaced_within(waiting, self._known)
        if isinstance(inner, b.Whole):
            return self._wholes.value(inner, frame, before, tools)
        alike = replace(inner, line=0)
        matched = tools.matched(alike.matching)
        table = frame.table.fingerprint
        if isinstance(alike, Brought):
            return brought_value(alike, matched, table)
        asked.append(alike)
        return listed_value(alike, matched, table)

    def looked_up(self, line: BoundLine, rows: RowSet, tools: Tools) -> tuple[LookedUp, ...]:
        """Return what the line of now found for the rows that reach it; of a bring line one for all its columns."""
        body = line.bound.body if line.bound is not None else None
        if isinstance(body, BoundBring):
            their = body.matching.their_keys[0]
            return (tools.matched(body.matching).looked_up(Brought(body.matching, their, their.kind, 0), rows),)
        return tuple(tools.matched(each.matching).looked_up(each, rows) for each in self._asked)

    def know(self, found: Iterable[tuple[b.BoundValue, b.BoundValue]]) -> None:
        """Take values that became known when a line had run."""
        self._known.update(found)

    def settled(self, value: b.BoundValue) -> b.BoundValue:
        """Return a value with all that is known put in its places."""
        return _replaced(value, self._known)  # type: ignore[no-any-return]

    def with_scope(self, line: BoundLine) -> BoundLine:
        """Return a line with what is known put into the columns it leaves."""
        scope = line.scope
        shown, known = _replaced(scope.shown, self._known), _replaced(scope.known, self._known)
        return (
            line
            if shown is scope.shown and known is scope.known
            else replace(line, scope=replace(scope, shown=shown, known=known))
        )


Waiting = b.Whole | b.SecondValue
"""What no expression is evaluated with: its value becomes known when its line runs."""


def waiting_in(plan: object) -> list[Waiting]:
    """Return what a plan speaks of that is not known yet, those within others first."""
    found = [waiting for part in parts_within(plan) for waiting in waiting_in(part)]
    return [*found, plan] if isinstance(plan, Waiting) else found


def _replaced(plan: Any, known: dict[b.BoundValue, b.BoundValue]) -> Any:
    """Return a plan with values in their places; the very same where there are none."""
    if isinstance(plan, Waiting):
        return known.get(plan) or _replaced_within(plan, known)
    if is_leaf(plan):
        return plan
    if isinstance(plan, tuple):
        parts = [_replaced(part, known) for part in plan]
        return plan if all(one is other for one, other in zip(parts, plan, strict=True)) else tuple(parts)
    return _replaced_within(plan, known)


def _replaced_within(plan: Any, known: dict[b.BoundValue, b.BoundValue]) -> Any:
    changed: dict[str, Any] = {}
    for part in fields(plan):
        value = getattr(plan, part.name)
        found = _replaced(value, known)
        if found is not value:
            changed[part.name] = found
    return replace(plan, **changed) if changed else plan


def _size_of(value: b.BoundValue) -> int:
    return _CONSTANT_BYTES + (value.nbytes if isinstance(value, b.KnownValue) else 0)


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
