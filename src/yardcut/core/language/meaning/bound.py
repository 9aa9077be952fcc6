"""Trees bound to the columns of a table: kinds checked, names resolved, nothing left to find out. They pickle."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import field
from decimal import Decimal

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.bound_known import Constants, Flags, Spread
from yardcut.core.language.meaning.bound_second import Brought, Listed
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

# values


@dataclass(frozen=True, slots=True)
class ColumnValue:
    """The value of a column of the table, numbered from 0."""

    column: int
    kind: Kind
    name: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class Constant:
    """A value that is the same for every row; decimals are exact, days and microseconds integers."""

    kind: Kind
    value: int | str | bool | Decimal


@dataclass(frozen=True, slots=True)
class RowNumber:
    """The row's number in the source, from 1."""

    kind: Kind = Kind.INTEGER


@dataclass(frozen=True, slots=True)
class Minus:
    """A number with its sign changed."""

    value: BoundValue
    kind: Kind
    text: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class Computed:
    """``left operator right`` with ``+ - * / %``; ``kind`` is that of the result."""

    operator: str
    left: BoundValue
    right: BoundValue
    kind: Kind
    text: str = field(compare=False, repr=False, default="")


READ_EXACTLY = "READ EXACTLY"
"""Reads a text as a value of a kind, and a number with a fraction as no integer: no user writes it."""


@dataclass(frozen=True, slots=True)
class Call:
    """A function of some values; ``kind`` is that of the result, ``text`` how it was written.

    With ``passes_over`` missing arguments are left out, and there is no value when none is left.
    """

    function: str
    arguments: tuple[BoundValue, ...]
    kind: Kind
    passes_over: bool = False
    text: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class NoValue:
    """NULL, of a kind; ``why`` tells of a value of all rows that there is none, where that needs to be said."""

    kind: Kind
    why: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class Case:
    """The value behind the first condition that is true, or ``otherwise``; all of one kind."""

    branches: tuple[tuple[BoundCondition, BoundValue], ...]
    otherwise: BoundValue
    kind: Kind


@dataclass(frozen=True, slots=True)
class Truth:
    """The answer of a condition as a value; unknown is no value."""

    condition: BoundCondition
    kind: Kind = Kind.BOOLEAN


@dataclass(frozen=True, slots=True)
class Whole:
    """A value of all rows that reach a line, worked out when the line runs: ``AVG``, ``QUANTILE`` and their like.

    ``REPEATED`` among them is one for each row. ``line`` tells equal ones of different lines apart; ``share`` is that
    of ``QUANTILE``; ``where`` says which rows count. With ``per`` it is one for each group of rows.
    No expression is evaluated before what stands in place of this is known.
    """

    function: str
    values: tuple[BoundValue, ...]
    kind: Kind
    line: int
    share: Decimal | None = None
    where: BoundCondition | None = None
    per: tuple[BoundValue, ...] = ()


@dataclass(frozen=True, slots=True)
class Aggregate:
    """What the values of a group's rows come to, worked out by a tally: no value of any row.

    ``where`` says which rows count; ``share`` is that of ``QUANTILE``, ``text`` how it was written.
    """

    function: str
    values: tuple[BoundValue, ...]
    kind: Kind
    share: Decimal | None = None
    where: BoundCondition | None = None
    text: str = field(compare=False, repr=False, default="")


@dataclass(frozen=True, slots=True)
class Made:
    """The value of a column that a line of the cut made: its expression, bound where the line stands.

    Equal when the expression is, whatever the column is called: what was worked out of it is found again by value.
    """

    value: BoundValue
    kind: Kind
    name: str = field(compare=False, repr=False, default="")


Operation = Minus | Computed | Call
"""What works a value out of others, and may have no answer."""

KnownValue = Flags | Spread
"""What is known of each row of one table by then."""

SecondValue = Brought | Listed
"""What becomes known when its line has looked into a second table."""

BoundValue = (
    ColumnValue | Constant | RowNumber | Operation | Made | NoValue | Case | Truth | Whole | KnownValue | SecondValue
)

# tests: one answer a row


@dataclass(frozen=True, slots=True)
class Compare:
    """``left operator right``."""

    operator: str
    left: BoundValue
    right: BoundValue
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class Within:
    """``low <= value <= high``; with ``symmetric`` the bounds may stand either way round."""

    value: BoundValue
    low: BoundValue
    high: BoundValue
    symmetric: bool = False


@dataclass(frozen=True, slots=True)
class OneOf:
    """``value`` equals one of some constants of a comparable kind."""

    value: BoundValue
    constants: Constants
    ignoring_case: bool = False


@dataclass(frozen=True, slots=True)
class TextMatch:
    """A text ``contains``, ``starts``, ``ends`` with, is ``like``, or matches the ``regex`` ``pattern``.

    ``option`` is the escape character of ``like`` or the flags of ``regex``.
    """

    how: str
    value: BoundValue
    pattern: str
    ignoring_case: bool = False
    option: str = ""


@dataclass(frozen=True, slots=True)
class TextPair:
    """A text ``contains``, ``starts`` or ``ends`` with another of its row, or is ``like`` it as a pattern."""

    how: str
    value: BoundValue
    part: BoundValue
    ignoring_case: bool = False
    option: str = ""


@dataclass(frozen=True, slots=True)
class Absent:
    """There is no value. Never unknown."""

    value: BoundValue


@dataclass(frozen=True, slots=True)
class Distinct:
    """Two values differ, or one of them is missing. Never unknown."""

    left: BoundValue
    right: BoundValue


@dataclass(frozen=True, slots=True)
class BooleanValue:
    """A value of kind boolean taken as the answer."""

    value: BoundValue


@dataclass(frozen=True, slots=True)
class Several:
    """The same test of several columns: true for one of them, or for ``every`` one that has a value. Never unknown."""

    pieces: tuple[Piece, ...]
    every: bool


BoundTest = Compare | Within | OneOf | TextMatch | TextPair | Absent | Distinct | BooleanValue | Several

# conditions


@dataclass(frozen=True, slots=True)
class Piece:
    """One test with the text it was written as; ``source`` is its node in the line's tree."""

    test: BoundTest
    negated: bool = False
    text: str = field(compare=False, repr=False, default="")
    source: t.Expression | None = field(compare=False, repr=False, default=None)


@dataclass(frozen=True, slots=True)
class AllOf:
    """AND."""

    items: tuple[BoundCondition, ...]


@dataclass(frozen=True, slots=True)
class AnyOf:
    """OR."""

    items: tuple[BoundCondition, ...]


@dataclass(frozen=True, slots=True)
class Inverse:
    """NOT."""

    item: BoundCondition


@dataclass(frozen=True, slots=True)
class AnswerIs:
    """``IS [NOT] TRUE | FALSE | UNKNOWN`` of a condition; ``truth`` is ``None`` for UNKNOWN. Never unknown."""

    item: BoundCondition
    truth: bool | None
    negated: bool


BoundCondition = Piece | AllOf | AnyOf | Inverse | AnswerIs

# columns and keys


@dataclass(frozen=True, slots=True)
class Key:
    """One key of an order; ``about`` is the value as it was named, where another one made of it is ordered by."""

    value: BoundValue
    descending: bool = False
    nulls_first: bool = False
    text: str = field(compare=False, repr=False, default="")
    about: BoundValue | None = field(compare=False, repr=False, default=None)

    @property
    def named(self) -> BoundValue:
        """The value as it was named."""
        return self.value if self.about is None else self.about


@dataclass(frozen=True, slots=True)
class ShownColumn:
    """A column as a line leaves it: the name it is shown under, and the value that stands in it.

    ``number`` counts, from 1, the columns of the source and behind them those that lines made; it means something only
    beside the columns of the same line.
    """

    name: str
    value: ColumnValue | Made
    number: int

    @property
    def kind(self) -> Kind:
        """The kind of its values."""
        return self.value.kind

    @property
    def id(self) -> Hashable:
        """What tells it apart from all other columns, whatever it is called and wherever it stands."""
        return self.value.column if isinstance(self.value, ColumnValue) else self.value


class BoundBody:
    """What a line does, bound to the columns it meets; each verb has its own. Frozen plain data that pickles."""

    __slots__ = ()

    @property
    def computes(self) -> bool:
        """True when it looks at the values of columns, not only at their names."""
        return True

    @property
    def starts_anew(self) -> bool:
        """True when neither rows nor columns that it leaves are those it met."""
        return False

    def restricts(self) -> tuple[BoundValue, ...]:
        """Return the columns by whose values it removes rows."""
        return ()

    def arranges(self) -> tuple[Key, ...] | None:
        """Return the keys its rows stand in order by; ``None`` when it leaves the order as it was."""
        return None


@dataclass(frozen=True, slots=True)
class NothingDone(BoundBody):
    """A line that does nothing while its dial is empty."""

    @property
    def computes(self) -> bool:
        """It looks at no value."""
        return False
