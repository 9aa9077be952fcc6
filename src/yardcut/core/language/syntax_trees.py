"""The trees of the cut language. Frozen; equal when they mean the same text, wherever they stood."""

from __future__ import annotations

from dataclasses import field, fields
from decimal import Decimal

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

Span = tuple[int, int]
"""Offsets of a node's text within its statement: start, and end (excluded)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Node:
    """Anything with a place in a statement."""

    span: Span = field(default=(0, 0), compare=False, repr=False)


def parts_of(node: Node) -> list[object]:
    """Return what stands in the fields of a node: nodes, tuples of them, words."""
    return [getattr(node, each.name) for each in fields(node) if each.name != "span"]


class Expression(Node):
    """A value or a condition."""

    __slots__ = ()


# values


@dataclass(frozen=True, slots=True)
class Name(Expression):
    """A column by name; a quoted one is always meant exactly."""

    name: str
    quoted: bool = field(default=False, compare=False)


@dataclass(frozen=True, slots=True)
class ColumnNumber(Expression):
    """A column by number from 1, or from the right from -1."""

    number: int


@dataclass(frozen=True, slots=True)
class Text(Expression):
    """A text literal; one that a dial holds is ``given``, and read as the kind of what it stands beside."""

    value: str
    given: bool = field(default=False, compare=False, repr=False)


@dataclass(frozen=True, slots=True)
class Dial(Expression):
    """``:name``: the value of a dial, or its values in IN, or the column it names."""

    name: str


@dataclass(frozen=True, slots=True)
class Number(Expression):
    """A number as it was written: digits, an exact decimal, or with an exponent."""

    written: str

    @property
    def value(self) -> Decimal:
        """The exact value."""
        return Decimal(self.written)

    @property
    def is_integer(self) -> bool:
        """True when it was written without point and exponent."""
        return self.written.isdigit()


@dataclass(frozen=True, slots=True)
class Truth(Expression):
    """TRUE, FALSE, or NULL (``None``)."""

    value: bool | None


@dataclass(frozen=True, slots=True)
class Moment(Expression):
    """A DATE, TIMESTAMP or TIME literal: days or microseconds since 1970-01-01, or microseconds since midnight.

    With an ``offset`` (in minutes) it is an instant, and the value in UTC.
    """

    kind: Kind
    value: int
    offset: int | None = None


@dataclass(frozen=True, slots=True)
class SourceRow(Expression):
    """SOURCE_ROW: the row's number in the source, from 1."""


@dataclass(frozen=True, slots=True)
class CurrentDate(Expression):
    """CURRENT_DATE: the day of the run."""


@dataclass(frozen=True, slots=True)
class Interval(Expression):
    """INTERVAL: a number of years, months, days, hours, minutes or seconds; ``field`` is in capitals, and singular."""

    count: int
    field: str


@dataclass(frozen=True, slots=True)
class Negated(Expression):
    """A value with its sign changed."""

    value: Expression


@dataclass(frozen=True, slots=True)
class Arithmetic(Expression):
    """``left operator right``, the operator one of ``+ - * / % ||``."""

    operator: str
    left: Expression
    right: Expression


@dataclass(frozen=True, slots=True)
class Call(Expression):
    """A function of some values; ``function`` is its name in capitals."""

    function: str
    arguments: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Aggregated(Expression):
    """An aggregate of the rows for which ``where`` is true (ISO/IEC 9075-2, 10.9), of a row's own group by ``per``."""

    aggregate: Call
    where: Expression | None = None
    per: tuple[Expression, ...] = ()


@dataclass(frozen=True, slots=True)
class Word(Expression):
    """A word that says how a function works: a field of EXTRACT, a side of TRIM, the kind of CAST, ``*`` of COUNT."""

    word: str


@dataclass(frozen=True, slots=True)
class Case(Expression):
    """CASE: the value behind the first condition that is true, or, with an ``operand``, the first value equal to it."""

    operand: Expression | None
    branches: tuple[tuple[Expression, Expression], ...]
    otherwise: Expression | None


@dataclass(frozen=True, slots=True)
class Across(Expression):
    """``function OF (columns)``: SUM, AVG, MIN, MAX or COUNT of several columns of one row."""

    function: str
    items: tuple[ColumnItem, ...]
    without: tuple[ColumnItem, ...] = ()


@dataclass(frozen=True, slots=True)
class Quantified(Expression):
    """``ANY OF (columns)`` or, with ``every``, ``ALL OF (columns)``: stands at the left of a comparison."""

    every: bool
    items: tuple[ColumnItem, ...]
    without: tuple[ColumnItem, ...] = ()


# conditions


@dataclass(frozen=True, slots=True)
class Comparison(Expression):
    """``left operator right``, the operator one of ``= <> < <= > >=``."""

    operator: str
    left: Expression
    right: Expression
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class Between(Expression):
    """``value BETWEEN low AND high``, both included."""

    value: Expression
    low: Expression
    high: Expression
    symmetric: bool = False
    negated: bool = False


@dataclass(frozen=True, slots=True)
class In(Expression):
    """``value IN (items)``."""

    value: Expression
    items: tuple[Expression, ...]
    negated: bool = False
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class Like(Expression):
    """``value LIKE pattern``: ``%`` any text, ``_`` any character."""

    value: Expression
    pattern: Expression
    escape: Text | None = None
    negated: bool = False
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class LikeRegex(Expression):
    """``value LIKE_REGEX pattern``: found anywhere, in re2's syntax."""

    value: Expression
    pattern: Text
    flags: str = ""
    negated: bool = False


@dataclass(frozen=True, slots=True)
class TextTest(Expression):
    """``value CONTAINS | STARTS WITH | ENDS WITH part``."""

    test: str
    value: Expression
    part: Expression
    negated: bool = False
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class IsNull(Expression):
    """``value IS NULL``."""

    value: Expression
    negated: bool = False


@dataclass(frozen=True, slots=True)
class Distinct(Expression):
    """``left IS DISTINCT FROM right``: a missing value is distinct from all but another one."""

    left: Expression
    right: Expression
    negated: bool = False


@dataclass(frozen=True, slots=True)
class IsTruth(Expression):
    """``condition IS TRUE | FALSE | UNKNOWN``; ``truth`` is ``None`` for UNKNOWN."""

    condition: Expression
    truth: bool | None
    negated: bool = False


@dataclass(frozen=True, slots=True)
class Not(Expression):
    """NOT of a condition."""

    condition: Expression


@dataclass(frozen=True, slots=True)
class And(Expression):
    """All of two or more conditions."""

    items: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Or(Expression):
    """Any of two or more conditions."""

    items: tuple[Expression, ...]


@dataclass(frozen=True, slots=True)
class Off(Expression):
    """A piece that is switched off."""

    condition: Expression


# parts of lines


@dataclass(frozen=True, slots=True)
class SortKey(Node):
    """One key of an order; values named in a ``sequence`` come in it, and before all others."""

    value: Expression
    descending: bool = False
    nulls_first: bool = False
    off: bool = False
    ignoring_case: bool = False
    number_aware: bool = False
    sequence: tuple[Expression, ...] = ()


class ColumnItem(Node):
    """One item of a column list."""

    __slots__ = ()


@dataclass(frozen=True, slots=True)
class OneColumn(ColumnItem):
    """One column by name or number, perhaps under a new name."""

    column: Name | ColumnNumber | Dial
    new_name: str | None = None


@dataclass(frozen=True, slots=True)
class ColumnRange(ColumnItem):
    """Columns from one to another, both included."""

    first: Name | ColumnNumber | Dial
    last: Name | ColumnNumber | Dial


@dataclass(frozen=True, slots=True)
class ColumnPattern(ColumnItem):
    """Columns whose whole name fits a pattern with ``*`` and ``?``."""

    pattern: str


@dataclass(frozen=True, slots=True)
class ColumnRegex(ColumnItem):
    """Columns in whose name a regular expression is found."""

    pattern: str


@dataclass(frozen=True, slots=True)
class ColumnsOfKind(ColumnItem):
    """Columns of a kind."""

    kind: str


@dataclass(frozen=True, slots=True)
class AllColumns(ColumnItem):
    """All shown columns."""


@dataclass(frozen=True, slots=True)
class OffItem(ColumnItem):
    """An item that is switched off."""

    item: ColumnItem


class Body(Node):
    """What one line of a cut does; each verb has its own, in its room below :mod:`yardcut.core.language.verbs`."""

    __slots__ = ()

    @property
    def word(self) -> str:
        """The verb."""
        raise NotImplementedError


@dataclass(frozen=True, slots=True)
class Statement(Node):
    """One line of a cut, perhaps switched off."""

    body: Body
    off: bool = False

    @property
    def verb(self) -> str:
        """The line's first word."""
        return self.body.word
