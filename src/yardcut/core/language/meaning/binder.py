"""Binding a line to the columns it names: kinds are checked, literals read as what they are compared with."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from yardcut.core.errors import ListError, Mend, NotYetError, UnquotedTextError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.mends_of_slips import fix_in_place
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.aggregate_forms import bound_aggregate
from yardcut.core.language.meaning.binds import Tallied, is_constant
from yardcut.core.language.meaning.bound_known import Constants
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.meaning.order_keys import bound_key
from yardcut.core.language.meaning.scope import Lookup, Scope
from yardcut.core.language.meaning.second_forms import bound_listed
from yardcut.core.language.meaning.text_forms import like, part_test, regex
from yardcut.core.language.meaning.value_forms import QuantifiedTest, ValueForms, tested
from yardcut.core.language.second_tree import InSecond
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind, a_kind, comparable
from yardcut.core.values.temporal import DAY_MICROSECONDS, parse_date, parse_instant, parse_time, parse_timestamp


@dataclass(frozen=True, slots=True)
class Bound:
    """A bound line, what it leaves to the lines below, and quiet hints about it."""

    body: b.BoundBody
    scope: Scope
    hints: tuple[str, ...] = ()


class Binder:
    """Binds the expressions of one statement."""

    def __init__(self, scope: Scope, text: str, fixed: Fixed) -> None:
        self.lookup = Lookup(scope, text)
        self.text = text
        self.fixed = fixed
        self.tallied: Tallied | None = None
        self._forms = ValueForms(self)

    @property
    def scope(self) -> Scope:
        """The columns that can be named."""
        return self.lookup.scope

    def over(self, scope: Scope) -> Binder:
        """Return what binds to other columns."""
        return Binder(scope, self.text, self.fixed)

    def keys(self, keys: tuple[t.SortKey, ...]) -> tuple[b.Key, ...]:
        """Bind the keys of an order that are switched on."""
        return tuple(bound_key(self, key) for key in keys if not key.off)

    def with_text(self, start: int, end: int, replacement: str) -> str:
        """Return the line with another text at a place."""
        return fix_in_place(self.text, start, end, replacement)

    def error(self, node: t.Node, message: str, mend: Mend | None = None) -> ListError:
        """Return an error at the place of a node."""
        return ListError(message, start=node.span[0], end=node.span[1], mend=mend)

    def replacing(self, node: t.Node, says: str, replacement: str) -> Mend:
        """Return the mend that puts another text in the place of a node."""
        return Mend(says, fix_in_place(self.text, *node.span, replacement))

    # conditions

    def condition(self, node: t.Expression) -> b.BoundCondition | None:
        """Bind a condition; ``None`` when every piece of it is switched off."""
        match node:
            case t.Off():
                return None
            case t.And(items) | t.Or(items):
                bound = [found for item in items if (found := self.condition(item)) is not None]
                if not bound:
                    return None
                if len(bound) == 1:
                    return bound[0]
                return b.AllOf(tuple(bound)) if isinstance(node, t.And) else b.AnyOf(tuple(bound))
            case t.Not(inner):
                found = self.condition(inner)
                if found is None:
                    return None
                if isinstance(found, b.Piece):
                    return b.Piece(found.test, not found.negated, expression_text(node), node)
                return b.Inverse(found)
            case t.In() if not all(map(is_constant, node.items)):
                return self._one_of_values(node)
            case t.IsTruth(inner, truth, negated):
                found = self.condition(inner)
                return None if found is None else b.AnswerIs(found, truth, negated)
            case t.Call() | t.Case() if isinstance(answer := self.value(node), b.Truth):
                return answer.condition
            case _:
                test, negated = self.test(node)
                return b.Piece(test, negated, expression_text(node), node)

    def test(self, node: t.Expression) -> tuple[b.BoundTest, bool]:
        """Bind one test, and tell whether it is negated."""
        if isinstance(node, QuantifiedTest) and isinstance(quantified := tested(node), t.Quantified):
            return self._forms.several(node, quantified), False
        match node:
            case t.Comparison():
                return self._comparison(node), False
            case t.Distinct(left, t.Truth(None), negated):
                asked = f"{expression_text(left)} IS {'' if negated else 'NOT '}NULL"
                raise self.error(
                    node, "what is distinct from NULL has a value", self.replacing(node, "this asks for that", asked)
                )
            case t.Distinct(left, right, negated):
                return b.Distinct(*self.pair(left, right)), negated
            case t.Between(value, low, high, symmetric, negated):
                return self._between(value, low, high, symmetric), negated
            case t.In():
                return self._membership(node), node.negated
            case InSecond():
                return bound_listed(self, node), node.negated
            case t.Like():
                return like(self, node), node.negated
            case t.LikeRegex():
                return regex(self, node), node.negated
            case t.TextTest():
                return part_test(self, node), node.negated
            case t.IsNull(value, negated):
                return b.Absent(self.value(value)), negated
        answer = self.value(node)
        if answer.kind is not Kind.BOOLEAN:
            raise self.error(node, f"{expression_text(node)} is {a_kind(answer.kind)}, not a condition")
        return b.BooleanValue(answer), False

    def _comparison(self, node: t.Comparison) -> b.Compare:
        for side in (node.left, node.right):
            if isinstance(side, t.Truth) and side.value is None:
                other = node.right if side is node.left else node.left
                word = "IS NOT NULL" if node.operator == "<>" else "IS NULL"
                raise self.error(
                    node, f"nothing is ever {node.operator} NULL: the answer is unknown for every row",
                    self.replacing(node, f"{word} asks whether there is no value", f"{expression_text(other)} {word}"),
                )  # fmt: skip
        left, right = self.pair(node.left, node.right)
        if node.ignoring_case:
            if left.kind is not Kind.TEXT:
                raise self.error(node, "IGNORING CASE is for texts")
            if node.operator not in ("=", "<>"):
                raise self.error(node, "IGNORING CASE may follow = and <>, not a bound")
        return b.Compare(node.operator, left, right, node.ignoring_case)

    def _between(self, value: t.Expression, low: t.Expression, high: t.Expression, symmetric: bool) -> b.Within:
        bound, lower = self.pair(value, low)
        other, upper = self.pair(value, high)
        if bound != other:  # a text that stands beside a day on one side only
            bound, lower, upper = self._alike((value, low, high))
        if (
            not symmetric
            and isinstance(lower, b.Constant)
            and isinstance(upper, b.Constant)
            and type(lower.value) in (int, Decimal, str)
            and lower.value > upper.value  # type: ignore[operator]
        ):
            self.lookup.hints.append(
                f"BETWEEN {expression_text(low)} AND {expression_text(high)} runs from high to low and is never true"
            )
        return b.Within(bound, lower, upper, symmetric)

    def _alike(self, nodes: Sequence[t.Expression]) -> list[b.BoundValue]:
        """Bind values that are all compared, each text among them read as the day or time that stands beside it."""
        values = [self.value(node) for node in nodes]
        days = [value for value in values if value.kind.is_temporal or value.kind in (Kind.INSTANT, Kind.TIME)]
        widest = next((value for value in days if value.kind is not Kind.DATE), days[0] if days else None)
        if widest is not None:
            values = [self.as_other(node, value, widest) for node, value in zip(nodes, values, strict=True)]
        for node, value in zip(nodes[1:], values[1:], strict=True):
            if not comparable(values[0].kind, value.kind):
                raise self._unlike(nodes[0], values[0], node, value)
        return values

    def _membership(self, node: t.In) -> b.OneOf:
        self._refuse_null_in(node)
        constants = []
        value = self.value(node.value)
        is_literal = isinstance(node.value, t.Text)
        alike = self._alike((node.value, *node.items)) if is_literal else [value]
        value = alike[0]
        for place, item in enumerate(node.items, 1):
            if value.kind is Kind.TEXT and type(item) is t.Text:  # there may be very many
                constants.append(b.Constant(Kind.TEXT, item.value))
                continue
            constant = alike[place] if is_literal else self._beside(node.value, value, item)
            if isinstance(constant, b.Minus) and isinstance(constant.value, b.Constant):
                constant = b.Constant(constant.kind, -constant.value.value)  # type: ignore[operator] # it is a number
            if not isinstance(constant, b.Constant):
                raise NotYetError("this version takes only values inside IN", start=item.span[0], end=item.span[1])
            constants.append(constant)
        if node.ignoring_case and value.kind is not Kind.TEXT:
            raise self.error(node, "IGNORING CASE is for texts")
        return b.OneOf(value, Constants(constants), node.ignoring_case)

    def _refuse_null_in(self, node: t.In) -> None:
        for item in node.items:
            if isinstance(item, t.Truth) and item.value is None:
                raise self.error(item, "NULL inside IN is never found", Mend("write OR … IS NULL behind the list"))

    def _one_of_values(self, node: t.In) -> b.BoundCondition:
        """Bind IN with other columns or operations in its list: one comparison for each (ISO/IEC 9075-2, 8.4)."""
        self._refuse_null_in(node)
        if isinstance(node.value, t.Quantified):
            of = f"{'ALL' if node.value.every else 'ANY'} OF"
            raise self.error(node, f"{of} takes an IN of values, not of columns", Mend(f"write {of} (…) = … for each"))
        same = [t.Comparison("=", node.value, item, node.ignoring_case, span=item.span) for item in node.items]
        pieces = [b.Piece(self._comparison(each), text=expression_text(each), source=each) for each in same]
        found = pieces[0] if len(pieces) == 1 else b.AnyOf(tuple(pieces))
        return b.Inverse(found) if node.negated else found

    # values

    def pair(self, left: t.Expression, right: t.Expression) -> tuple[b.BoundValue, b.BoundValue]:
        """Bind two sides of a comparison, reading a literal as the other side's kind."""
        first = self.side(left, right)
        second = self.side(right, left)
        first, second = self.as_other(left, first, second), self.as_other(right, second, first)
        if not comparable(first.kind, second.kind):
            raise self._unlike(left, first, right, second)
        return first, second

    def _beside(self, left: t.Expression, first: b.BoundValue, right: t.Expression) -> b.BoundValue:
        """Bind the right side of a comparison with a value that is bound already, and is no literal."""
        second = self.as_other(right, self.side(right, left), first)
        if not comparable(first.kind, second.kind):
            raise self._unlike(left, first, right, second)
        return second

    def side(self, node: t.Expression, other: t.Expression) -> b.BoundValue:
        """Bind one side of a test; a word that is no column beside a text is likely a text without quotes."""
        try:
            return self.value(node)
        except ListError as error:
            if not isinstance(node, t.Name) or not isinstance(other, t.Name | t.ColumnNumber):
                raise
            itself = self.replacing(node, "", expression_text(other))
            if error.mend is not None and error.mend.text == itself.text:  # a column compared with itself
                error = ListError(error.message, start=error.start, end=error.end)
            try:
                column = self.value(other)
            except ListError:
                raise error from None
            kind = column.kind
            if not isinstance(column, b.ColumnValue | b.Made) or (
                kind not in (Kind.TEXT, Kind.INSTANT, Kind.TIME) and not kind.is_temporal
            ):
                raise error from None
            start, end = node.span
            if node.quoted:
                raise self.error(
                    node, f'there is no column "{node.name}": double quotes are for names',
                    self.replacing(node, "a text stands in single quotes", quote_text(node.name)),
                ) from None  # fmt: skip
            raise UnquotedTextError(
                node.name, column.name, start=start, end=end, mend=Mend("a text stands in single quotes")
            ) from None

    def as_other(self, node: t.Expression, value: b.BoundValue, other: b.BoundValue) -> b.BoundValue:
        """Read a text literal as the kind of day or time it stands beside. Raises ``ListError`` where it is none."""
        if not isinstance(value, b.Constant) or not isinstance(value.value, str):
            return value
        if isinstance(node, t.Text) and node.given and (other.kind.is_numeric or other.kind is Kind.BOOLEAN):
            return self._given(node, other)
        if other.kind not in (Kind.INSTANT, Kind.TIME) and not other.kind.is_temporal:
            return value
        try:
            if other.kind is Kind.TIME:
                clock = parse_time(value.value)
                if clock is not None:
                    return b.Constant(Kind.TIME, clock)
                raise self.error(node, f"{value.value} is not a time of day", Mend("write it as '14:00:00'"))
            if other.kind is Kind.INSTANT:
                instant = parse_instant(value.value)
                if instant is not None:
                    return b.Constant(Kind.INSTANT, instant[0])
                mend = Mend("write it with its offset from UTC, as '2031-03-01 14:00:00+01:00'")
                raise self.error(node, f"{value.value} is not an instant", mend)
            days = parse_date(value.value)
            if days is not None:
                if other.kind is Kind.DATE:
                    return b.Constant(Kind.DATE, days)
                return b.Constant(Kind.TIMESTAMP, days * DAY_MICROSECONDS)
            moment = parse_timestamp(value.value)
        except ValueError as error:
            raise self.error(node, f"there is no day or time {value.value}: {error}") from None
        if moment is not None:
            return b.Constant(Kind.TIMESTAMP, moment)
        raise self.error(node, f"{value.value} is not {a_kind(other.kind)}", Mend("write it as '2031-03-01'"))

    def _given(self, node: t.Text, other: b.BoundValue) -> b.BoundValue:
        """Read a text that a dial holds as a number or a truth."""
        text = node.value.strip()
        if other.kind is Kind.BOOLEAN and text.upper() in ("TRUE", "FALSE"):
            return b.Constant(Kind.BOOLEAN, text.upper() == "TRUE")
        if other.kind.is_numeric and re.fullmatch(r"[+-]?(\d+(\.\d+)?|\.\d+)", text):
            number = Decimal(text)
            return b.Constant(Kind.INTEGER, int(text)) if "." not in text else b.Constant(Kind.NUMBER, number)
        what = "a number" if other.kind.is_numeric else "TRUE or FALSE"
        raise self.error(node, f"a dial holds {quote_text(node.value)}, and {what} stands here", Mend("set it anew"))

    def _unlike(self, left: t.Expression, first: b.BoundValue, right: t.Expression, second: b.BoundValue) -> ListError:
        message = (
            f"{expression_text(left)} is {a_kind(first.kind)} and {expression_text(right)} is {a_kind(second.kind)}: "
            "they cannot be compared"
        )
        for node, other in ((left, second), (right, first)):
            if isinstance(node, t.Text) and other.kind.is_numeric and _is_number(node.value):
                return self.error(node, message, self.replacing(node, "a number stands without quotes", node.value))
            if isinstance(node, t.Text) and other.kind is Kind.BOOLEAN and node.value.upper() in ("TRUE", "FALSE"):
                mend = self.replacing(node, "TRUE and FALSE stand without quotes", node.value.upper())
                return self.error(node, message, mend)
            if isinstance(node, t.Number) and other.kind is Kind.TEXT:
                mend = self.replacing(node, "a text stands in single quotes", quote_text(node.written))
                return self.error(node, message, mend)
            if isinstance(node, t.Arithmetic) and other.kind.is_temporal and node.operator == "-":
                mend = self.replacing(
                    node, "a day stands in single quotes", quote_text(expression_text(node).replace(" ", ""))
                )
                return self.error(node, message, mend)
        return self.error(left, message)

    def value(self, node: t.Expression) -> b.BoundValue:
        """Bind a value."""
        match node:
            case t.Name() | t.ColumnNumber():
                column = self.lookup.column(node)
                return replace(column.value, name=column.name)
            case t.Text() | t.Number() | t.Truth() | t.Moment() | t.CurrentDate():
                return self._literal(node)
            case t.SourceRow():
                if not self.scope.leads_to_source:
                    raise self.error(node, "rows that were put together by a tally have no number in the source")
                return b.RowNumber()
            case t.Negated():
                return self._negated(node)
            case t.Arithmetic():
                return self._forms.arithmetic(node)
            case t.Call():
                return self._forms.call(node)
            case t.Aggregated():
                return bound_aggregate(self, node)
            case t.Case():
                return self._forms.case(node)
            case t.Across():
                return self._forms.across(node)
            case t.Quantified(every):
                word = "ALL" if every else "ANY"
                raise self.error(node, f"{word} OF stands at the left of a comparison", Mend(f"{word} OF (…) > 60"))
            case t.Interval():
                raise self.error(node, "an INTERVAL is added to a day or a moment, or taken off one")
        condition = self.condition(node)
        if condition is None:
            raise self.error(node, "every piece of this is switched off, and it has no value")
        return b.Truth(condition)

    def _literal(self, node: t.Text | t.Number | t.Truth | t.Moment | t.CurrentDate) -> b.Constant:
        match node:
            case t.Text(value):
                return b.Constant(Kind.TEXT, value)
            case t.Number() if node.is_integer:
                return b.Constant(Kind.INTEGER, int(node.written))
            case t.Number():
                return b.Constant(Kind.NUMBER, node.value)
            case t.Truth(value):
                if value is None:
                    raise self.error(node, "NULL cannot stand here", Mend("ask with IS NULL"))
                return b.Constant(Kind.BOOLEAN, value)
            case t.Moment(kind, value):
                return b.Constant(kind, value)
            case t.CurrentDate():
                return b.Constant(Kind.DATE, self.fixed.today)

    def _negated(self, node: t.Negated) -> b.BoundValue:
        bound = self.value(node.value)
        if not bound.kind.is_numeric:
            raise self.error(node, f"{expression_text(node.value)} is {a_kind(bound.kind)} and has no sign")
        if isinstance(bound, b.Constant):
            assert isinstance(bound.value, (int, Decimal))
            return b.Constant(bound.kind, -bound.value)
        return b.Minus(bound, bound.kind)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
