"""Putting the values of dials in the places they are named at; what an empty dial stands in is left out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields, replace
from decimal import Decimal
from typing import Any, TypeVar

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import InSecond
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.draw_parts import Amount, Draw
from yardcut.core.language.verbs.draw_rules import check
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.quick_dataclasses import dataclass

_Node = TypeVar("_Node", bound=t.Node)
_PIECES = (t.Comparison, t.Between, t.In, InSecond, t.Like, t.LikeRegex, t.TextTest, t.IsNull, t.Distinct)


@dataclass(frozen=True, slots=True)
class DialSetting:
    """A dial and what it holds: literals, none where it is empty, or one column.

    ``low``, ``high`` and ``step`` are the numbers it is nudged between, and by; ``offered`` is the column whose values
    it is picked from.
    """

    name: str
    values: tuple[t.Expression, ...] = ()
    low: Decimal | None = None
    high: Decimal | None = None
    step: Decimal | None = None
    offered: t.Name | t.ColumnNumber | None = None

    @property
    def is_column(self) -> bool:
        """True when it holds a column."""
        return any(isinstance(value, t.Name | t.ColumnNumber) for value in self.values)

    def said(self) -> str:
        """Say what it holds."""
        return ", ".join(map(expression_text, self.values)) if self.values else "empty"


def held_text(dial: DialSetting) -> str | None:
    """Return the one value a dial holds as a plain text, "all" where it is empty; ``None`` where it holds several."""
    if not dial.values:
        return "all"
    if len(dial.values) > 1:
        return None
    (value,) = dial.values
    if isinstance(value, t.Text):
        return value.value
    return (
        value.name
        if isinstance(value, t.Name)
        else expression_text(value).partition("'")[2].rstrip("'") or expression_text(value)
    )


class _EmptyDialError(ListError):
    """An empty dial stands where something can be left out, or else is an error."""


def dials_in(node: object) -> set[str]:
    """Return the names of the dials within a tree."""
    found: set[str] = set()
    waiting: list[Any] = [node]
    while waiting:
        part = waiting.pop()
        if isinstance(part, t.Dial):
            found.add(part.name)
        elif isinstance(part, Draw):
            found.update(part.dials_named)
        if isinstance(part, tuple):
            waiting += part
        elif isinstance(part, t.Node):
            waiting += t.parts_of(part)
    return found


def put_in_line(statement: t.Statement, dials: Iterable[DialSetting]) -> tuple[t.Statement | None, tuple[str, ...]]:
    """Return a line with the values of dials in place, and hints; ``None`` where it does nothing while one is empty.

    Raises ``ListError`` for a dial that is not there, holds something else than what stands here, or is empty where
    nothing can be left out.
    """
    if not dials_in(statement):
        return statement, ()
    put = _Putting(dials)
    body = statement.body
    if isinstance(body, Keep | Drop):
        return replace(statement, body=replace(body, condition=put.condition(body.condition))), tuple(put.hints)
    if isinstance(body, Draw):
        drawn = put.draw(body)
        return None if drawn is None else replace(statement, body=drawn), tuple(put.hints)
    return replace(statement, body=put.within(body)), tuple(put.hints)


def put_in_condition(node: t.Expression, dials: Iterable[DialSetting]) -> t.Expression:
    """Return a condition with the values of dials in place. Raises ``ListError``."""
    return _Putting(dials).condition(node) if dials_in(node) else node


def put_in_value(node: t.Expression, dials: Iterable[DialSetting]) -> t.Expression:
    """Return a value with the values of dials in place. Raises ``ListError``."""
    found: t.Expression = _Putting(dials).within(node)
    return found


def column_held(node: t.Dial, dials: Iterable[DialSetting]) -> t.Name | t.ColumnNumber:
    """Return the column a dial holds. Raises ``ListError``."""
    return _column(_Putting(dials).within(node))


def _column(node: t.Expression) -> t.Name | t.ColumnNumber:
    """Return the column that a dial holds. Raises ``ListError`` for anything else."""
    if isinstance(node, t.Name | t.ColumnNumber):
        return node
    raise ListError(
        f"a dial holds {expression_text(node)}, and a column stands here",
        start=node.span[0], end=node.span[1], mend=Mend("write it as: dial name = column …"),
    )  # fmt: skip


class _Putting:
    """Puts the values of some dials in a tree."""

    def __init__(self, dials: Iterable[DialSetting]) -> None:
        self._dials = {dial.name: dial for dial in dials}
        self.hints: list[str] = []

    def _dial(self, name: str, span: t.Span) -> DialSetting:
        found = self._dials.get(name)
        if found is not None:
            return found
        from yardcut.core.near import nearest

        near = nearest(name, list(self._dials))
        has = f"it has {', '.join(self._dials)}" if self._dials else f"give it one with: dial {name} ="
        says = f"did you mean :{near[0]}?" if near else has
        raise ListError(f"the list has no dial {name}", start=span[0], end=span[1], mend=Mend(says))

    def _one(self, name: str, span: t.Span) -> t.Expression:
        dial = self._dial(name, span)
        if not dial.values:
            raise _EmptyDialError(
                f"the dial {name} is empty, and here nothing can be left out",
                start=span[0], end=span[1], mend=Mend("give it a value"),
            )  # fmt: skip
        if len(dial.values) > 1:
            raise ListError(
                f"the dial {name} holds {len(dial.values)} values, and one stands here",
                start=span[0], end=span[1], mend=Mend(f"a list of values stands in IN (:{name})"),
            )  # fmt: skip
        return _placed(dial.values[0], span)

    # conditions: what an empty dial stands in is switched off

    def condition(self, node: t.Expression, below: str = "") -> t.Expression:
        match node:
            case t.Off():
                return node
            case t.And(items) | t.Or(items):
                word = "OR" if isinstance(node, t.Or) else below
                return replace(node, items=tuple(self.condition(item, word) for item in items))
            case t.Not(inner):
                return replace(node, condition=self.condition(inner, "NOT"))
            case t.IsTruth(inner):
                found = self.condition(inner, below)
                return t.Off(node, span=node.span) if isinstance(found, t.Off) else replace(node, condition=found)
            case t.Between():
                return self._between(node, below)
        try:
            return self._in(node) if isinstance(node, t.In) else self.within(node)
        except _EmptyDialError:
            return self._left_out(node, below)

    def _left_out(self, node: t.Expression, below: str) -> t.Off:
        if below:
            self.hints.append(f"{expression_text(node)} is left out: its dial is empty, below {below}")
        return t.Off(node, span=node.span)

    def _in(self, node: t.In) -> t.Expression:
        items: list[t.Expression] = []
        for item in node.items:
            if isinstance(item, t.Dial):
                items += [_placed(value, item.span) for value in self._dial(item.name, item.span).values]
            else:
                items.append(self.within(item))
        if not items:
            raise _EmptyDialError("its dials are empty", start=node.span[0], end=node.span[1])
        return replace(node, value=self.within(node.value), items=tuple(items))

    def _between(self, node: t.Between, below: str) -> t.Expression:
        """Keep the other bound where the dial of one is empty."""
        bounds: list[t.Expression | None] = []
        for bound in (node.low, node.high):
            try:
                bounds.append(self.within(bound))
            except _EmptyDialError:
                bounds.append(None)
        try:
            value = self.within(node.value)
        except _EmptyDialError:
            return self._left_out(node, below)
        low, high = bounds
        if low is None and high is None:
            return self._left_out(node, below)
        if low is not None and high is not None:
            return replace(node, value=value, low=low, high=high)
        one = t.Comparison(">=", value, low) if low is not None else t.Comparison("<=", value, high or value)
        one = replace(one, span=node.span)
        return t.Not(one, span=node.span) if node.negated else one

    # values, and all other parts of lines

    def within(self, node: _Node) -> Any:
        """Return a node with the values of dials in the places within it."""
        match node:
            case t.Dial(name):
                return self._one(name, node.span)
            case t.Off() | t.OffItem():
                return node
            case t.SortKey(off=True):
                return node
            case Amount() if node.dial:
                return replace(node, written=self._number(node.dial, node.span))
        changed: dict[str, Any] = {}
        for each in fields(node):
            part = getattr(node, each.name)
            new = self._part(part)
            if new is not part:
                changed[each.name] = new
        if isinstance(node, t.Like | t.LikeRegex | t.TextTest):
            changed = {name: self._text(part) for name, part in changed.items()}
        if isinstance(node, t.OneColumn | t.ColumnRange):
            changed = {name: _column(part) for name, part in changed.items()}
        return replace(node, **changed) if changed else node

    def _part(self, part: object) -> object:
        if isinstance(part, t.Node):
            return self.within(part)
        if isinstance(part, tuple) and any(isinstance(item, t.Node | tuple) for item in part):
            return tuple(self._part(item) for item in part)
        return part

    def _text(self, part: object) -> object:
        """Return a text as the tests of texts take it."""
        if isinstance(part, t.Number | t.Negated | t.Moment | t.Truth):
            raise ListError("a text stands here, and the dial holds none", start=part.span[0], end=part.span[1])
        return part

    # draws

    def draw(self, draw: Draw) -> Draw | None:
        """Return a draw with its numbers in place; ``None`` where they are empty: it takes all rows."""
        reach = tuple(self.condition(each) for each in draw.reach)
        try:
            found: Draw = self.within(replace(draw, reach=()))
            numbers = {place: int(self._number(name, draw.span)) for place, name in draw.places}
        except _EmptyDialError as error:
            if any(self._dial(name, draw.span).values == () for name in draw.dials_named):
                return None
            raise error
        except ValueError:
            raise ListError("a whole number stands here", start=draw.span[0], end=draw.span[1]) from None
        found = replace(found, reach=reach, places=(), **numbers)  # type: ignore[arg-type] # all of them are integers
        check(found)
        return found

    def _number(self, name: str, span: t.Span) -> str:
        """Return the digits of a number that stands in a draw."""
        value = self._one(name, span)
        if isinstance(value, t.Text):
            written = value.value.strip()
            if written.replace(".", "", 1).isdecimal():
                return written
        elif isinstance(value, t.Number):
            return value.written
        raise ListError(
            f"a number stands here, and the dial {name} holds {expression_text(value)}",
            start=span[0], end=span[1], mend=Mend("set it to a number, from 0"),
        )  # fmt: skip


def _placed(value: t.Expression, span: t.Span) -> t.Expression:
    """Return what a dial holds at the place where it is named."""
    if isinstance(value, t.Text):
        return replace(value, given=True, span=span)
    if isinstance(value, t.Name):
        return replace(value, quoted=True, span=span)
    return replace(value, span=span)
