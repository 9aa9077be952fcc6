"""Conditions and values of a cut, bound to a table's columns, written in SQL."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Flags, Spread
from yardcut.core.language.meaning.bound_parts import values_of
from yardcut.core.language.meaning.bound_second import Brought, Listed
from yardcut.core.sql.dialects import Dialect, quoted_name, quoted_text
from yardcut.core.sql.function_texts import call
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind


class NotSaidError(ListError):
    """A cut holds what SQL has no words for that surely mean the same."""


def not_said(what: str, why: str) -> NotSaidError:
    """Return the error for a part of a cut that cannot be said in SQL."""
    return NotSaidError(f"{what} cannot be said in SQL: {why}", mend=Mend("run the list with yardcut run"))


class Writer:
    """Writes expressions in a dialect.

    ``columns`` are the names of the table's columns, by number; ``reached`` the tables of rows that reach each line, by
    the line's own number, for values of all those rows. ``looked_up`` writes what is found in second tables; ``of`` is
    the table that columns are said to be of, as SQL writes it, where that must be said.
    """

    def __init__(
        self, dialect: Dialect, columns: Mapping[int, str], reached: Mapping[int, str],
        looked_up: Callable[[b.SecondValue], str] | None = None, of: str = "",
    ) -> None:  # fmt: skip
        self.dialect = dialect
        self._columns, self._reached = columns, reached
        self._looked_up, self._of = looked_up, f"{of}." if of else ""

    # conditions

    def condition(self, condition: b.BoundCondition) -> str:
        """Write a condition, in brackets where it is more than one test. Raises ``NotSaidError``."""
        match condition:
            case b.Piece(test, negated):
                said = self._test(test)
                return f"(NOT {said})" if negated else said
            case b.AllOf(items):
                return f"({' AND '.join(map(self.condition, items))})"
            case b.AnyOf(items):
                return f"({' OR '.join(map(self.condition, items))})"
            case b.Inverse(item):
                return f"(NOT {self.condition(item)})"
            case b.AnswerIs(item, truth, negated):
                word = "NOT " if negated else ""
                if truth is None:
                    return f"({self.condition(item)} IS {word}NULL)"
                return f"({self.condition(item)} IS {word}{'TRUE' if truth else 'FALSE'})"

    def _test(self, test: b.BoundTest) -> str:
        match test:
            case b.Compare(operator, left, right, ignoring):
                _refuse_ignoring(ignoring)
                by = self.dialect.code_points if left.kind is Kind.TEXT and operator not in ("=", "<>") else ""
                one, other = self._pair(left, right)
                return f"({one}{by} {operator} {other})"
            case b.Distinct(left, right):
                return self._formed("IS DISTINCT FROM", *self._pair(left, right))
            case b.Within(value, low, high, symmetric):
                by = self.dialect.code_points if value.kind is Kind.TEXT else ""
                one, least = self._pair(value, low)
                _, most = self._pair(value, high)
                if symmetric:
                    return self._formed("BETWEEN SYMMETRIC", f"{one}{by}", least, most)
                return f"({one}{by} BETWEEN {least} AND {most})"
            case b.OneOf(value, constants, ignoring):
                _refuse_ignoring(ignoring)
                listed = ", ".join(self._pair(value, constant)[1] for constant in constants)
                return f"({self.value(value)} IN ({listed}))"
            case b.TextMatch():
                return self._match(test)
            case b.TextPair():
                return self._match_pair(test)
            case b.Absent(value):
                return f"({self.value(value)} IS NULL)"
            case b.BooleanValue(value):
                return self.value(value)
            case b.Several(pieces, every):
                return self._several(pieces, every)

    def _formed(self, name: str, *said: str) -> str:
        """Write what the dialect has a form for. Raises ``NotSaidError`` where it has none."""
        form = self.dialect.form(name)
        if form is None:
            raise not_said(name, self.dialect.why_not.get(name, f"{self.dialect.name} has none just like it"))
        return form.format(*said)

    def _pair(self, left: b.BoundValue, right: b.BoundValue) -> tuple[str, str]:
        """Write two sides of a comparison; a day beside a moment is its midnight."""
        kinds = {left.kind, right.kind}
        if self.dialect.days_are_texts and kinds == {Kind.DATE, Kind.TIMESTAMP}:
            raise not_said("a day beside a moment", "both are texts there")
        return self.value(left), self.value(right)

    def _match(self, test: b.TextMatch) -> str:
        _refuse_ignoring(test.ignoring_case)
        value, part, size = self.value(test.value), quoted_text(test.pattern), len(test.pattern)
        if "\0" in test.pattern:
            raise not_said("a text with a zero byte", "no text holds one there")
        match test.how:
            case "regex":
                raise not_said("LIKE_REGEX", "the database's expressions are others")
            case "like":
                return self._formed("LIKE", value, *self.dialect.pattern(test.pattern, test.option))
            case _ if not size:
                return f"({value} IS NOT NULL OR NULL)"
            case how:
                return self._formed(_TEXT_TESTS[how], value, part, str(size))

    def _match_pair(self, test: b.TextPair) -> str:
        _refuse_ignoring(test.ignoring_case)
        if test.how not in _TEXT_TESTS:
            raise not_said("LIKE with a pattern that is a column", "what is no pattern is an error there")
        name = _TEXT_TESTS[test.how]
        name += "" if test.how == "contains" else " VALUE"
        return self._formed(name, self.value(test.value), self.value(test.part))

    def _several(self, pieces: tuple[b.Piece, ...], every: bool) -> str:
        """Write ANY OF and ALL OF: missing values are passed over, and nothing compared is false."""
        if any(isinstance(piece.test, b.Absent) for piece in pieces):
            joint = " AND " if every else " OR "
            return f"({joint.join(self.condition(piece) for piece in pieces)})"
        there = [f"({self.value(values_of(piece.test)[0])} IS NOT NULL)" for piece in pieces]
        tested = [f"({self.condition(piece)} IS TRUE)" for piece in pieces]
        if not every:
            return f"({' OR '.join(tested)})"
        each = " AND ".join(f"(NOT {is_there} OR {test})" for is_there, test in zip(there, tested, strict=True))
        return f"(({each}) AND ({' OR '.join(there)}))"

    # values

    def value(self, value: b.BoundValue) -> str:
        """Write a value. Raises ``NotSaidError``."""
        match value:
            case b.ColumnValue(column):
                return f"{self._of}{quoted_name(self._columns[column])}"
            case b.Constant():
                return self._constant(value)
            case b.Made(inner):
                return self.value(inner)
            case b.Minus(inner):
                return f"(-{self.value(inner)})"
            case b.Computed():
                return self._computed(value)
            case b.Call():
                return call(value, [self.value(each) for each in value.arguments], self.dialect)
            case b.NoValue(kind):
                return f"CAST(NULL AS {self.dialect.types[kind]})"
            case b.Case(branches, otherwise):
                said = "".join(f" WHEN {self.condition(when)} THEN {self.value(then)}" for when, then in branches)
                return f"(CASE{said} ELSE {self.value(otherwise)} END)"
            case b.Truth(condition):
                return self.condition(condition)
            case b.Whole():
                return self._whole(value)
            case Brought() | Listed():
                if self._looked_up is None:
                    raise not_said("a second table", "it stands within another table's line")
                return self._looked_up(value)
            case b.RowNumber():
                raise not_said("SOURCE_ROW", "the rows of a table have no numbers")
            case Flags() | Spread():
                raise not_said("REPEATED", "it goes by the order of the rows")

    def _constant(self, constant: b.Constant) -> str:
        value = constant.value
        if constant.kind is Kind.TEXT:
            if "\0" in str(value):
                raise not_said("a text with a zero byte", "no text holds one there")
            return quoted_text(str(value))
        if constant.kind is Kind.BOOLEAN:
            return "TRUE" if value else "FALSE"
        if constant.kind.is_numeric:
            digits = f"{value:f}" if isinstance(value, Decimal) else str(value)
            return f"({digits})" if digits.startswith("-") else digits
        text = quoted_text(formatter(constant.kind)(value))
        if self.dialect.days_are_texts:
            return text
        return f"{'TIMESTAMPTZ' if constant.kind is Kind.INSTANT else constant.kind.upper()} {text}"

    def _computed(self, value: b.Computed) -> str:
        left, right = self.value(value.left), self.value(value.right)
        if not value.left.kind.is_numeric:
            if {value.left.kind, value.right.kind} != {Kind.DATE}:
                raise not_said("a difference of moments", "databases round it otherwise")
            return self._formed("DAYS BETWEEN", left, right)
        match value.operator:
            case "/":
                return f"(CAST({left} AS {self.dialect.types[Kind.NUMBER]}) / NULLIF({right}, 0))"
            case "%" if value.kind is not Kind.INTEGER:
                raise not_said("% of numbers with a point", "databases take it of whole ones")
            case "%":
                return f"({left} % NULLIF({right}, 0))"
        if value.kind is Kind.NUMBER:  # exact decimals of a database are doubles here
            left = f"CAST({left} AS {self.dialect.types[Kind.NUMBER]})"
        return f"({left} {value.operator} {right})"

    def _whole(self, value: b.Whole) -> str:
        reached = self._reached.get(value.line)
        if value.function == "REPEATED" or reached is None:
            raise not_said(value.function, "it goes by the order of the rows")
        if value.per:
            raise not_said("PER", "a value of a row's group stands in no condition there; a tally does")
        return f"(SELECT {self.aggregate(value)} FROM {quoted_name(reached)})"

    def aggregate(self, value: b.Whole | b.Aggregate) -> str:
        """Write an aggregate, with the condition on its rows. Raises ``NotSaidError``."""
        form = self.dialect.form(value.function)
        if form is None:
            raise not_said(value.function, self.dialect.why_not.get(value.function, "databases have none just like it"))
        said = ", ".join(map(self.value, value.values)) or "*"
        kind = value.values[0].kind if value.values else None
        if value.function in ("QUANTILE", "MEDIAN") and not (kind and kind.is_numeric):
            raise not_said(f"{value.function} of days", "it would lie between them")
        if value.function in ("AVG", "SUM") and value.kind is Kind.NUMBER:
            said = f"CAST({said} AS {self.dialect.types[Kind.NUMBER]})"
        by = self.dialect.code_points if kind is Kind.TEXT and value.function in ("MIN", "MAX") else ""
        where = "" if value.where is None else f" FILTER (WHERE {self.condition(value.where)})"
        return form.format(said + by, share=value.share) + where


_TEXT_TESTS = {"contains": "CONTAINS", "starts": "STARTS WITH", "ends": "ENDS WITH"}


def _refuse_ignoring(ignoring: bool) -> None:
    if ignoring:
        raise not_said("IGNORING CASE", "databases fold capitals otherwise")
