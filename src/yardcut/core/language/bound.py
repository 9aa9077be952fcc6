"""Trees bound to the columns of a table: kinds checked, names resolved, nothing left to find out. They pickle."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import Decimal

from yardcut.core.language import tree as t
from yardcut.core.values.kinds import Kind

# values


@dataclass(frozen=True, slots=True)
class ColumnValue:
    """The value of a column of the table, numbered from 0."""

    column: int
    kind: Kind
    name: str = field(compare=False, default="")


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


@dataclass(frozen=True, slots=True)
class Computed:
    """``left operator right`` with ``+ - * / %``; ``kind`` is that of the result."""

    operator: str
    left: BoundValue
    right: BoundValue
    kind: Kind


BoundValue = ColumnValue | Constant | RowNumber | Minus | Computed

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
    constants: tuple[Constant, ...]
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
class Absent:
    """There is no value. Never unknown."""

    value: BoundValue


@dataclass(frozen=True, slots=True)
class BooleanValue:
    """A value of kind boolean taken as the answer."""

    value: BoundValue


BoundTest = Compare | Within | OneOf | TextMatch | Absent | BooleanValue

# conditions


@dataclass(frozen=True, slots=True)
class Piece:
    """One test with the text it was written as; ``source`` is its node in the line's tree."""

    test: BoundTest
    negated: bool = False
    text: str = field(compare=False, default="")
    source: t.Expression | None = field(compare=False, default=None)


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

# lines


@dataclass(frozen=True, slots=True)
class Key:
    """One key of an order."""

    value: BoundValue
    descending: bool = False
    nulls_first: bool = False
    text: str = field(compare=False, default="")


@dataclass(frozen=True, slots=True)
class BoundFilter:
    """A keep or drop line; ``condition`` is ``None`` when all its pieces are off."""

    condition: BoundCondition | None
    drops: bool


@dataclass(frozen=True, slots=True)
class BoundOrder:
    """An order line; no keys and no seed mean the order as read."""

    keys: tuple[Key, ...]
    seed: int | None = None


@dataclass(frozen=True, slots=True)
class BoundDraw:
    """A draw line: its tree with keys and groups bound."""

    draw: t.Draw
    keys: tuple[Key, ...]
    groups: tuple[BoundValue, ...]


@dataclass(frozen=True, slots=True)
class ShownColumn:
    """A column as a line leaves it: the name it is shown under, and its number in the table (from 0)."""

    name: str
    column: int
    kind: Kind


@dataclass(frozen=True, slots=True)
class BoundColumns:
    """A columns line: what is shown from here on."""

    shown: tuple[ShownColumn, ...]


@dataclass(frozen=True, slots=True)
class BoundSave:
    """A save line."""

    save: t.Save


BoundBody = BoundFilter | BoundOrder | BoundDraw | BoundColumns | BoundSave


def pieces_of(condition: BoundCondition | None) -> list[Piece]:
    """Return the pieces of a condition from left to right."""
    match condition:
        case None:
            return []
        case Piece():
            return [condition]
        case AllOf(items) | AnyOf(items):
            return [piece for item in items for piece in pieces_of(item)]
        case Inverse(item) | AnswerIs(item=item):
            return pieces_of(item)


def columns_of(value: BoundValue) -> set[int]:
    """Return the numbers of the table's columns a value is computed from."""
    match value:
        case ColumnValue(column):
            return {column}
        case Minus(inner):
            return columns_of(inner)
        case Computed(left=left, right=right):
            return columns_of(left) | columns_of(right)
        case _:
            return set()


def piece_columns(piece: Piece) -> set[int]:
    """Return the numbers of the table's columns a piece looks at."""
    match piece.test:
        case Compare(left=left, right=right):
            return columns_of(left) | columns_of(right)
        case Within(value, low, high):
            return columns_of(value) | columns_of(low) | columns_of(high)
        case OneOf(value=value) | TextMatch(value=value) | Absent(value) | BooleanValue(value):
            return columns_of(value)
