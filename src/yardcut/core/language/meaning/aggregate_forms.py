"""Binding aggregates: over all rows that reach a line, over those of a row's group, or over the groups of a tally."""

from __future__ import annotations

from dataclasses import field
from decimal import Decimal

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.functions import FUNCTIONS, Signature
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binds import Binds
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind, a_kind

AggregateNode = t.Call | t.Aggregated


@dataclass(slots=True)
class TallyColumns:
    """The aggregates that a tally's measures are made of: columns of a table of their own, numbered from ``first``."""

    first: int
    found: list[b.Aggregate] = field(default_factory=list)

    def column(self, aggregate: b.Aggregate) -> b.ColumnValue:
        """Return the column of an aggregate; equal ones share it."""
        if aggregate not in self.found:
            self.found.append(aggregate)
        return b.ColumnValue(self.first + self.found.index(aggregate), aggregate.kind, aggregate.text)


def bound_aggregate(binder: Binds, node: AggregateNode) -> b.BoundValue:
    """Bind an aggregate, with its FILTER and its PER. Raises ``ListError``."""
    plain, where, per = node, None, ()  # type: tuple[t.Expression, b.BoundCondition | None, tuple[b.BoundValue, ...]]
    if isinstance(node, t.Aggregated):
        plain, per = node.aggregate, _groups(binder, node)
        where = None if node.where is None else _where(binder, node.where)
    assert isinstance(plain, t.Call)
    signature = FUNCTIONS.get(plain.function)
    if signature is None or not signature.over_rows or (plain is not node and not signature.tallies):
        taking = ", ".join(each.name for each in FUNCTIONS.values() if each.tallies)
        raise binder.error(node, f"FILTER and PER stand behind an aggregate: {taking}")
    values, share = _arguments(binder, plain, signature)
    kinds = [value.kind for value in values] + [Kind.NUMBER] * (share is not None)
    kind = Kind.INTEGER if not values else signature.result_of(tuple(kinds))
    if kind is None:
        raise not_taken(binder, plain, [value.kind for value in values], values)
    if binder.tallied is not None:
        if per or not signature.tallies:
            raise binder.error(node, "a measure is put together per group of the tally, and has no PER of its own")
        aggregate = b.Aggregate(plain.function, values, kind, share, where, expression_text(node))
        return binder.tallied.column(aggregate)
    return b.Whole(plain.function, values, kind, binder.fixed.line, share, where, per)


def _where(binder: Binds, node: t.Expression) -> b.BoundCondition | None:
    """Bind the condition of a FILTER: aggregates in it are over all rows, in a tally too."""
    held, binder.tallied = binder.tallied, None
    try:
        return binder.condition(node)
    finally:
        binder.tallied = held


def _groups(binder: Binds, node: t.Aggregated) -> tuple[b.BoundValue, ...]:
    inner = next((found for each in node.per if (found := aggregate_in(each)) is not None), None)
    if inner is not None:
        raise binder.error(inner, "a group is told by values of its rows", _AS_COLUMN)
    return tuple(map(binder.value, node.per))


_AS_COLUMN = Mend("make it a column first, in a line of its own")


def _arguments(binder: Binds, node: t.Call, signature: Signature) -> tuple[tuple[b.BoundValue, ...], Decimal | None]:
    """Bind what an aggregate is of, and read the share behind it where it takes one."""
    function = node.function
    inner = next((found for each in node.arguments if (found := aggregate_in(each)) is not None), None)
    if inner is not None:
        message = f"{inner.function} looks at all rows and cannot stand within {function}"
        raise binder.error(inner, message, _AS_COLUMN)
    if any(isinstance(each, t.Word) for each in node.arguments):
        if not signature.takes_rows:
            takers = " and ".join(name for name, each in FUNCTIONS.items() if each.takes_rows)
            raise binder.error(node, f"only {takers} takes *, and {function} takes a value")
        return (), None
    share, arguments = None, node.arguments
    if signature.takes_share and len(arguments) == len(signature.takes):
        last = arguments[-1]
        if not isinstance(last, t.Number) or not 0 <= last.value <= 1:
            raise binder.error(last, f"{function} takes a share between 0 and 1, as in {signature.example}")
        share, arguments = last.value, arguments[:-1]
    held, binder.tallied = binder.tallied, None
    try:
        return tuple(map(binder.value, arguments)), share
    finally:
        binder.tallied = held


def not_taken(
    binder: Binds, node: t.Call, kinds: list[Kind], values: tuple[b.BoundValue, ...] | list[b.BoundValue]
) -> ListError:
    """Return the error of a function that does not take what it is given; a text may be cast to the number it holds."""
    signature = FUNCTIONS[node.function]
    given = " and ".join(map(a_kind, kinds)) or "nothing"
    mend = Mend(f"for example {signature.example}")
    if signature.tallies and len(values) == 1 and kinds[0] is Kind.TEXT and signature.result_of((Kind.NUMBER,)):
        argument = node.arguments[0]
        mend = binder.replacing(argument, "a text is read as a number", f"CAST({expression_text(argument)} AS number)")
    return binder.error(node, f"{signature.form} does not take {given}", mend)


def aggregate_in(node: t.Expression) -> t.Call | None:
    """Return an aggregate that stands within an expression."""
    waiting: list[object] = [node]
    while waiting:
        part = waiting.pop()
        if isinstance(part, t.Call) and part.function in FUNCTIONS and FUNCTIONS[part.function].over_rows:
            return part
        if isinstance(part, tuple):
            waiting += part
        elif isinstance(part, t.Node):
            waiting += t.parts_of(part)
    return None
