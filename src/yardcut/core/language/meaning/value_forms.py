"""Binding functions, arithmetic, CASE and what looks at several columns or at all rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.functions import FUNCTIONS, unknown_function
from yardcut.core.language.helping.mends_of_slips import fix_in_place, outside
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.aggregate_forms import bound_aggregate, not_taken
from yardcut.core.language.meaning.binds import Binds
from yardcut.core.language.meaning.chosen_columns import choose
from yardcut.core.language.meaning.intervals import with_interval
from yardcut.core.language.syntax.printing import expression_text, name_text
from yardcut.core.values.casts import can_cast
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind, a_kind

_DAY_FIELDS = ("YEAR", "QUARTER", "MONTH", "WEEK", "DAY", "WEEKDAY")
_CLOCK_FIELDS = ("HOUR", "MINUTE", "SECOND")
_WITH_DAYS = (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT)
_WITH_CLOCK = (Kind.TIMESTAMP, Kind.INSTANT, Kind.TIME)


QuantifiedTest = t.Comparison | t.Distinct | t.Between | t.In | t.Like | t.LikeRegex | t.TextTest | t.IsNull
"""The tests at whose left ``ANY OF`` or ``ALL OF`` may stand."""


def tested(node: QuantifiedTest) -> t.Expression:
    """Return what a test asks about, at its left."""
    return node.left if isinstance(node, t.Comparison | t.Distinct) else node.value


class ValueForms:
    """Binds them for one statement, with its binder for what stands within."""

    def __init__(self, binder: Binds) -> None:
        self._binder = binder

    def call(self, node: t.Call) -> b.BoundValue:
        """Bind a function. Raises ``ListError`` for one that is not there, or does not take what it is given."""
        signature = FUNCTIONS.get(node.function)
        if signature is None:
            raise self._no_function(node)
        match node.function:
            case "CAST":
                return self._cast(node)
            case "COALESCE" if not any(isinstance(each, t.Word) for each in node.arguments):
                return self._first_present(node)
            case "NULLIF" if not any(isinstance(each, t.Word) for each in node.arguments):
                return self._null_if(node)
            case "EXTRACT":
                return self._extract(node)
            case "TRIM":
                return self._trim(node)
            case _ if signature.over_rows:
                return bound_aggregate(self._binder, node)
            case _ if any(isinstance(each, t.Word) for each in node.arguments):
                raise self._binder.error(node, f"only COUNT takes *, and {node.function} takes values")
        arguments = tuple(map(self._binder.value, node.arguments))
        result = signature.result_of(tuple(argument.kind for argument in arguments))
        if result is None:
            raise self._not_taken(node, arguments)
        return b.Call(node.function, arguments, result, text=expression_text(node))

    def _not_taken(self, node: t.Call, arguments: Sequence[b.BoundValue]) -> ListError:
        return not_taken(self._binder, node, [argument.kind for argument in arguments], list(arguments))

    def _no_function(self, node: t.Call) -> ListError:
        from yardcut.core.near import nearest

        start = node.span[0]
        near = nearest(node.function, list(FUNCTIONS), 1)
        mended = [fix_in_place(self._binder.text, start, start + len(node.function), name) for name in near]
        mend = Mend(f"did you mean {near[0]}?", mended[0]) if near else None
        return unknown_function(node.function, start, mend)

    def _cast(self, node: t.Call) -> b.BoundValue:
        inner, word = node.arguments
        assert isinstance(word, t.Word)
        kind = Kind(word.word)
        if _is_null(inner):
            return b.NoValue(kind)
        value = self._binder.value(inner)
        if not can_cast(value.kind, kind):
            raise self._binder.error(node, f"{a_kind(value.kind)} cannot become {a_kind(kind)}")
        return value if value.kind is kind else b.Call("CAST", (value,), kind, text=expression_text(node))

    def _extract(self, node: t.Call) -> b.BoundValue:
        word, inner = node.arguments
        assert isinstance(word, t.Word)
        value = self._binder.value(inner)
        if word.word not in (*_DAY_FIELDS, *_CLOCK_FIELDS):
            from yardcut.core.near import nearest

            near = nearest(word.word, [*_DAY_FIELDS, *_CLOCK_FIELDS], 1)
            mend = (
                Mend(f"did you mean {near[0]}?", fix_in_place(self._binder.text, *word.span, near[0])) if near else None
            )
            known = ", ".join((*_DAY_FIELDS, *_CLOCK_FIELDS))
            raise self._binder.error(word, f"EXTRACT takes {known}; {word.word} is none of them", mend)
        if value.kind not in (_WITH_DAYS if word.word in _DAY_FIELDS else _WITH_CLOCK):
            raise self._binder.error(node, f"{a_kind(value.kind)} has no {word.word}")
        kind = Kind.NUMBER if word.word == "SECOND" else Kind.INTEGER
        return b.Call(f"EXTRACT {word.word}", (value,), kind, text=expression_text(node))

    def _trim(self, node: t.Call) -> b.BoundValue:
        inner, side, *character = node.arguments if len(node.arguments) > 1 else (*node.arguments, t.Word("BOTH"))
        assert isinstance(side, t.Word)
        value = self._binder.value(inner)
        if value.kind is not Kind.TEXT:
            raise self._not_taken(node, [value])
        constants = [b.Constant(Kind.TEXT, each.value) for each in character if isinstance(each, t.Text)]
        if len(constants) != len(character) or any(len(str(each.value)) != 1 for each in constants):
            raise self._binder.error(character[0], "TRIM takes one character in quotes off the ends")
        return b.Call(f"TRIM {side.word}", (value, *constants), Kind.TEXT, text=expression_text(node))

    # one of several values

    def unified(self, nodes: Sequence[t.Expression]) -> tuple[tuple[b.BoundValue, ...], Kind]:
        """Bind values of which one is taken, NULL among them, and return the one kind they have together.

        Raises ``ListError`` when they have none.
        """
        binder = self._binder
        bound = [None if _is_null(node) else binder.value(node) for node in nodes]
        there = [value for value in bound if value is not None]
        if not there:
            raise binder.error(nodes[0], "nothing here says what kind this is", Mend("write CAST(NULL AS text)"))
        pattern = next((value for value in there if value.kind is not Kind.TEXT), there[0])
        found = [
            value if value is None else binder.as_other(node, value, pattern)
            for node, value in zip(nodes, bound, strict=True)
        ]
        kinds = {value.kind for value in found if value is not None}
        if len(kinds) == 1:
            (kind,) = kinds
        elif all(kind.is_numeric for kind in kinds):
            kind = Kind.NUMBER
        elif all(kind.is_temporal for kind in kinds):
            kind = Kind.TIMESTAMP
        else:
            one, other = next((node, value) for node, value in zip(nodes, found, strict=True)
                              if value is not None and value.kind is not pattern.kind)  # fmt: skip
            raise binder.error(
                one, f"{a_kind(other.kind)} and {a_kind(pattern.kind)} cannot stand side by side here",
                binder.replacing(one, "make it of one kind", f"CAST({expression_text(one)} AS {pattern.kind})"),
            )  # fmt: skip
        return tuple(b.NoValue(kind) if value is None else value for value in found), kind

    def _first_present(self, node: t.Call) -> b.BoundValue:
        values, kind = self.unified(node.arguments)
        branches = tuple((b.Piece(b.Absent(value), negated=True), value) for value in values[:-1])
        return b.Case(branches, values[-1], kind)

    def _null_if(self, node: t.Call) -> b.BoundValue:
        if len(node.arguments) != 2:
            raise self._binder.error(
                node, "NULLIF takes two values", Mend(f"for example {FUNCTIONS['NULLIF'].example}")
            )
        value, other = node.arguments
        if _is_null(other):
            return self._binder.value(value)
        if _is_null(value):
            return b.NoValue(self._binder.value(other).kind)
        same = self._binder.condition(t.Comparison("=", value, other, span=node.span))
        assert same is not None
        bound = self._binder.value(value)
        return b.Case(((same, b.NoValue(bound.kind)),), bound, bound.kind)

    def case(self, node: t.Case) -> b.BoundValue:
        """Bind CASE; branches whose condition is switched off are left out."""
        conditions: list[b.BoundCondition] = []
        taken: list[t.Expression] = []
        for when, then in node.branches:
            whole = when if node.operand is None else t.Comparison("=", node.operand, when, span=when.span)
            condition = self._binder.condition(whole)
            if condition is not None:
                conditions.append(condition)
                taken.append(then)
        otherwise = t.Truth(None, span=node.span) if node.otherwise is None else node.otherwise
        values, kind = self.unified([*taken, otherwise])
        if not conditions:
            return values[-1]
        return b.Case(tuple(zip(conditions, values[:-1], strict=True)), values[-1], kind)

    # several columns of one row

    def across(self, node: t.Across) -> b.BoundValue:
        """Bind SUM OF and its like."""
        columns = choose(node.items, node.without, self._binder.lookup)
        values = tuple(replace(column.value, name=column.name) for column in columns)
        kinds = {value.kind for value in values}
        kind: Kind | None
        match node.function:
            case "COUNT":
                kind = Kind.INTEGER
            case "MIN" | "MAX":
                kind = next(iter(kinds)) if len(kinds) == 1 else None
                kind = Kind.NUMBER if kind is None and all(each.is_numeric for each in kinds) else kind
                kind = Kind.TIMESTAMP if kind is None and all(each.is_temporal for each in kinds) else kind
            case _:
                numeric = all(each.is_numeric for each in kinds)
                whole = numeric and node.function == "SUM" and kinds == {Kind.INTEGER}
                kind = Kind.INTEGER if whole else Kind.NUMBER if numeric else None
        if kind is None:
            odd = next(each for each in columns if not each.kind.is_numeric)
            raise self._binder.error(
                node, f"{node.function} OF does not take {odd.name}, which is {a_kind(odd.kind)}, beside the others",
                Mend(f"leave it out: without {name_text(odd.name)}"),
            )  # fmt: skip
        return b.Call(f"{node.function} OF", values, kind, node.function != "COUNT", expression_text(node))

    def several(self, node: QuantifiedTest, quantified: t.Quantified) -> b.Several:
        """Bind a test of ANY OF or ALL OF some columns; those it cannot be made of are passed over."""
        columns = choose(quantified.items, quantified.without, self._binder.lookup)
        pieces: list[b.Piece] = []
        first: ListError | None = None
        of_texts = isinstance(node, t.Like | t.LikeRegex | t.TextTest)
        for column in columns:
            name: t.Expression = t.ColumnNumber(column.number, span=quantified.span)
            if self._binder.scope.find(column.name) == column:
                name = t.Name(column.name, quoted=True, span=quantified.span)
            if of_texts and column.kind is not Kind.TEXT:
                name = t.Call("CAST", (name, t.Word("text")), span=quantified.span)
            changed = {"left": name} if isinstance(node, t.Comparison | t.Distinct) else {"value": name}
            try:
                test, negated = self._binder.test(replace(node, **changed))  # type: ignore[arg-type] # the field is there
            except ListError as error:
                first = first or error
            else:
                pieces.append(b.Piece(test, negated))
        if not pieces:
            assert first is not None
            raise first
        return b.Several(tuple(pieces), quantified.every)

    # arithmetic

    def arithmetic(self, node: t.Arithmetic) -> b.BoundValue:
        """Bind ``+ - * / % ||``."""
        operator, binder = node.operator, self._binder
        if isinstance(node.left, t.Interval) or isinstance(node.right, t.Interval):
            return with_interval(binder, node)
        try:
            left, right = binder.value(node.left), binder.value(node.right)
        except ListError as error:
            raise self._dashed(node, error) from None
        kinds = (left.kind, right.kind)
        text = expression_text(node)
        if operator == "||":
            return self._joined(node, left, right, text)
        if left.kind.is_numeric and right.kind.is_numeric:
            whole = kinds == (Kind.INTEGER, Kind.INTEGER) and operator != "/"
            return b.Computed(operator, left, right, Kind.INTEGER if whole else Kind.NUMBER, text)
        if operator == "-" and kinds == (Kind.DATE, Kind.DATE):
            return b.Computed(operator, left, right, Kind.INTEGER, text)
        moments = (left.kind.is_temporal and right.kind.is_temporal) or kinds == (Kind.INSTANT, Kind.INSTANT)
        if operator == "-" and moments:
            return b.Computed(operator, left, right, Kind.NUMBER, text)
        message = f"{a_kind(left.kind)} {operator} {a_kind(right.kind)} has no answer"
        if operator in "+-" and left.kind in _WITH_DAYS and isinstance(node.right, t.Number) and node.right.is_integer:
            days = f"INTERVAL '{node.right.written}' DAY"
            raise binder.error(node, message, binder.replacing(node.right, f"days are written {days}", days))
        for side, value, other in ((node.left, left, right), (node.right, right, left)):
            if value.kind is Kind.TEXT and other.kind.is_numeric:
                number = f"CAST({expression_text(side)} AS number)"
                raise binder.error(node, message, binder.replacing(side, "read the text as a number", number))
        raise binder.error(node, message)

    def _joined(self, node: t.Arithmetic, left: b.BoundValue, right: b.BoundValue, text: str) -> b.BoundValue:
        binder = self._binder
        for side, value in ((node.left, left), (node.right, right)):
            if value.kind is Kind.BOOLEAN:
                mend = Mend("OR joins conditions", outside(r"\s*\|\|\s*", " OR ", binder.text))
                raise binder.error(node, "|| joins texts, not conditions", mend)
            if value.kind is not Kind.TEXT:
                raise binder.error(
                    side, f"|| joins texts, and {expression_text(side)} is {a_kind(value.kind)}",
                    binder.replacing(side, "make it a text", f"CAST({expression_text(side)} AS text)"),
                )  # fmt: skip
        if isinstance(left, b.Constant) and isinstance(right, b.Constant):
            both = quote_text(f"{left.value}{right.value}")
            binder.lookup.hints.append(f"{text} is {both}: || joins texts; one of several is IN (…)")
        return b.Call("||", (left, right), Kind.TEXT, text=text)

    def _dashed(self, node: t.Arithmetic, error: ListError) -> ListError:
        """See whether a subtraction is a column name with dashes in it."""
        written = self._binder.text[node.span[0] : node.span[1]]
        joined = "".join(written.split())
        for name in (joined, joined.replace("-", "_")):
            if node.operator == "-" and self._binder.lookup.scope.find(name) is not None:
                return self._binder.error(
                    node, f"{written} is a subtraction of columns",
                    self._binder.replacing(node, f"did you mean the column {name}?", name_text(name)),
                )  # fmt: skip
        return error


def _is_null(node: t.Expression) -> bool:
    return isinstance(node, t.Truth) and node.value is None
