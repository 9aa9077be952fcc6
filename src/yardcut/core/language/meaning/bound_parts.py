"""What bound conditions and values are made of: the pieces, values and columns within them."""

from __future__ import annotations

from yardcut.core.language.meaning.bound import (
    Absent,
    AllOf,
    AnswerIs,
    AnyOf,
    BooleanValue,
    BoundCondition,
    BoundTest,
    BoundValue,
    Call,
    Case,
    ColumnValue,
    Compare,
    Computed,
    Distinct,
    Inverse,
    Made,
    Minus,
    OneOf,
    Piece,
    Several,
    TextMatch,
    TextPair,
    Truth,
    Whole,
    Within,
)
from yardcut.core.language.meaning.bound_second import Brought, Listed


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


def parts_of(value: BoundValue) -> tuple[BoundValue, ...]:
    """Return the values a value is computed from directly."""
    match value:
        case Minus(inner) | Made(inner):
            return (inner,)
        case Computed(left=left, right=right):
            return (left, right)
        case Call(arguments=arguments):
            return arguments
        case Whole(values=values):
            return values
        case Brought(matching) | Listed(matching):
            return matching.keys if matching.moment is None else (*matching.keys, matching.moment)
        case Truth(condition):
            return values_in(condition)
        case Case(branches, otherwise):
            found = [part for condition, then in branches for part in (*values_in(condition), then)]
            return (*found, otherwise)
        case _:
            return ()


def columns_of(value: BoundValue) -> set[int]:
    """Return the numbers (from 0) of the table's columns a value is computed from."""
    if isinstance(value, ColumnValue):
        return {value.column}
    return set().union(*map(columns_of, parts_of(value)))


def named_in(value: BoundValue) -> tuple[ColumnValue | Made, ...]:
    """Return the columns a value names, of the source or made; not those a made one is computed from."""
    if isinstance(value, ColumnValue | Made):
        return (value,)
    return tuple(name for part in parts_of(value) for name in named_in(part))


def unwrapped(value: BoundValue) -> BoundValue:
    """Return the expression behind a made column's name."""
    while isinstance(value, Made):
        value = value.value
    return value


def values_in(condition: BoundCondition | None) -> tuple[BoundValue, ...]:
    """Return the values a condition looks at, from left to right."""
    return tuple(value for piece in pieces_of(condition) for value in values_of(piece.test))


def values_of(test: BoundTest) -> tuple[BoundValue, ...]:
    """Return the values a test looks at."""
    match test:
        case Compare(left=left, right=right) | Distinct(left, right):
            return (left, right)
        case Within(value, low, high):
            return (value, low, high)
        case TextPair(value=value, part=part):
            return (value, part)
        case OneOf(value=value) | TextMatch(value=value) | Absent(value) | BooleanValue(value):
            return (value,)
        case Several(pieces):
            return tuple(value for piece in pieces for value in values_of(piece.test))


def columns_named(condition: BoundCondition | None) -> tuple[ColumnValue | Made, ...]:
    """Return the columns a condition names, from left to right, each once."""
    return tuple(dict.fromkeys(name for value in values_in(condition) for name in named_in(value)))
