"""Values of an expression for some rows of a table."""

from __future__ import annotations

import math
from decimal import Decimal

import numpy as np

from yardcut.core.expressions.arithmetic import compute, negative
from yardcut.core.expressions.kernels import KERNELS
from yardcut.core.language import bound as b
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import NumericVector, PlainVector, Vector, join_texts, part_of
from yardcut.core.table.window import Scatter, Span, Window
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind

_KEPT_ROWS = 1 << 19
_KEPT_FROM_ROWS = 1 << 12


def evaluate(value: b.BoundValue, window: Window) -> Vector:
    """Return the values of an expression for the rows of a window.

    A missing operand gives no value, and so does an operation that has no answer (division by zero, overflow). What a
    round works out of a made column is kept with the table, so that the next one finds it.
    """
    match value:
        case b.ColumnValue(column):
            return window.column(column)
        case b.Constant():
            return _constant(value, len(window))
        case b.RowNumber():
            return NumericVector(Kind.INTEGER, window.row_numbers())
        case b.Made(inner):
            return _made(inner, window)
        case b.Minus(inner, kind):
            vector = evaluate(inner, window)
            assert isinstance(vector, NumericVector)
            return negative(vector, kind)
        case b.Computed(operator, left, right, kind):
            first, second = evaluate(left, window), evaluate(right, window)
            assert isinstance(first, NumericVector)
            assert isinstance(second, NumericVector)
            return compute(operator, first, second, kind)
        case b.Call(function, arguments, kind):
            return KERNELS[function](tuple(evaluate(argument, window) for argument in arguments), kind)


def _made(inner: b.BoundValue, window: Window) -> Vector:
    """Evaluate a made column; of a round over the rows, whole blocks of a fixed size are worked out and kept."""
    if isinstance(inner, b.ColumnValue | b.Made | b.Constant):
        return evaluate(inner, window)
    if isinstance(window, Scatter) or len(window) < _KEPT_FROM_ROWS:
        return evaluate(inner, window)
    first = window.first_row - window.first_row % _KEPT_ROWS
    end = min(first + _KEPT_ROWS, window.table.rows)
    if window.end_row > end:
        return evaluate(inner, window)
    block = Span(window.table, first, end)
    whole = window.table.kept.get_or((inner, first, end), lambda: evaluate(inner, block))
    return part_of(whole, window.first_row - first, window.end_row - first)


def zone_of(value: b.BoundValue, table: Table) -> str:
    """Return the zone whose clock shows a value: that of the column it is a copy of, else none."""
    plain = b.unwrapped(value)
    return table.columns[plain.column].info.zone if isinstance(plain, b.ColumnValue) else ""


def _double(value: int | Decimal) -> float:
    """Return the nearest 64-bit float (IEEE 754); missing for a number beyond all of them."""
    try:
        found = float(value)
    except OverflowError:
        return math.nan
    return found if math.isfinite(found) else math.nan


def _constant(constant: b.Constant, rows: int) -> Vector:
    value = constant.value
    if isinstance(value, str):
        offsets, data = join_texts([value.encode()] * rows)
        return PlainVector(offsets, data)
    if isinstance(value, int) and not -(2**63) <= value < 2**63:
        return NumericVector(Kind.NUMBER, np.full(rows, _double(value)))
    number = _double(value) if isinstance(value, Decimal) else value
    return NumericVector(constant.kind, np.full(rows, number, dtype=STORAGE_DTYPE[constant.kind]))
