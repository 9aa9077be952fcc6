"""What the least and the largest value of a stretch of rows say about a piece, without a look at the rows."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal

from yardcut.core.language.meaning import bound as b
from yardcut.core.table.unread import GroupRange
from yardcut.core.values.kinds import Kind


def answer_of_range(piece: b.Piece, ranges: Mapping[int, GroupRange]) -> bool | None:
    """Return the answer that all rows have, or ``None`` where that is not sure.

    ``ranges`` are those of columns of which every row has a value.
    """
    answer = _answer(piece.test, ranges)
    return answer if answer is None or not piece.negated else not answer


def _answer(test: b.BoundTest, ranges: Mapping[int, GroupRange]) -> bool | None:
    match test:
        case b.Compare(operator, b.ColumnValue(column, kind), b.Constant() as constant, False) if column in ranges:
            value = _number(constant, kind)
            return None if value is None else _compared(operator, ranges[column], value)
        case b.Within(b.ColumnValue(column, kind), b.Constant() as low, b.Constant() as high) if column in ranges:
            if test.symmetric:
                return None
            bottom, top = _number(low, kind), _number(high, kind)
            if bottom is None or top is None:
                return None
            return _both(_compared(">=", ranges[column], bottom), _compared("<=", ranges[column], top))
        case b.OneOf(b.ColumnValue(column, kind), constants, False) if column in ranges:
            values = [_number(constant, kind) for constant in constants]
            if any(value is None or _compared("=", ranges[column], value) is not False for value in values):
                return None
            return False
        case b.Absent(b.ColumnValue(column)) if column in ranges:
            return False
    return None


def _number(constant: b.Constant, kind: Kind) -> int | Decimal | None:
    """Return a constant that is compared with a column by value alone."""
    is_same = constant.kind is kind or (constant.kind.is_numeric and kind.is_numeric)
    value = constant.value
    return value if is_same and isinstance(value, int | Decimal) and not isinstance(value, bool) else None


def _compared(operator: str, span: GroupRange, value: int | Decimal) -> bool | None:
    low, high = span
    match operator:
        case "=" | "<>":
            equal = None if low <= value <= high else False
            equal = True if low == high == value else equal
            return equal if operator == "=" or equal is None else not equal
        case "<":
            return True if high < value else False if low >= value else None
        case "<=":
            return True if high <= value else False if low > value else None
        case ">":
            return True if low > value else False if high <= value else None
        case _:
            return True if low >= value else False if high < value else None


def _both(one: bool | None, other: bool | None) -> bool | None:
    if one is False or other is False:
        return False
    return True if one and other else None
