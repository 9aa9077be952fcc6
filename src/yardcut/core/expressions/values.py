"""Values of an expression for some rows of a table."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

import numpy as np

from yardcut.core.expressions.choosing_values import branches_taken, choose
from yardcut.core.expressions.computing.arithmetic import compute, negative
from yardcut.core.expressions.computing.kernels import KERNELS
from yardcut.core.expressions.computing.text_functions import call_on_texts, word_function
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import parts_of, unwrapped
from yardcut.core.table import bits as bit
from yardcut.core.table.joining_vectors import missing_vector
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import NumericVector, PlainVector, Vector, part_of
from yardcut.core.table.window import Span, Window, row_numbers
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
        case b.NoValue(kind):
            return missing_vector(kind, len(window))
        case b.RowNumber():
            return NumericVector(Kind.INTEGER, row_numbers(window))
        case b.Flags(bits=bits, table=table):
            return NumericVector(
                Kind.BOOLEAN, bit.at(bits, window.table.ids_in(table, window.row_ids)).astype(np.uint8)
            )
        case b.Made(inner):
            return _made(inner, window)
        case b.Truth(condition):
            return _truth(condition, window)
        case b.Case(branches, otherwise, kind):
            taken = branches_taken(answers_of([condition for condition, _ in branches], window), len(window))
            found = [evaluate(each, window) for each in (*(then for _, then in branches), otherwise)]
            return on_the_clock(choose(taken, found, kind), value, window.table)
        case b.Minus() | b.Computed() | b.Call():
            parts = [None if is_spared(value, part) else evaluate(part, window) for part in parts_of(value)]
            return on_the_clock(apply(value, parts, len(window)), value, window.table)
    raise AssertionError(f"{type(value).__name__} has no value before its line runs")


def is_spared(operation: b.Operation, part: b.BoundValue) -> bool:
    """Tell whether a part need not be evaluated: a constant of a function of texts, which takes it as it is."""
    return isinstance(part, b.Constant) and isinstance(operation, b.Call) and word_function(operation) is not None


def apply(operation: b.Operation, vectors: Sequence[Vector | None], rows: int) -> Vector:
    """Work an operation out of its operands; ``None`` stands for those that are spared."""
    if isinstance(operation, b.Call):
        work = word_function(operation)
        if work is not None:
            return call_on_texts(operation, work, vectors, rows)
        return KERNELS[operation.function](tuple(vector for vector in vectors if vector is not None), operation.kind)
    numbers = [vector for vector in vectors if isinstance(vector, NumericVector)]
    if isinstance(operation, b.Minus):
        return negative(numbers[0], operation.kind)
    return compute(operation.operator, numbers[0], numbers[1], operation.kind)


def answers_of(conditions: Sequence[b.BoundCondition], window: Window) -> list[Answers]:
    """Answer conditions that stand within a value."""
    from yardcut.core.expressions.conditions import answer_condition  # which evaluates values

    return [answer_condition(condition, window) for condition in conditions]


def _truth(condition: b.BoundCondition, window: Window) -> NumericVector:
    (answers,) = answers_of([condition], window)
    true = bit.unpack(answers.true, 0, answers.rows).astype(np.uint8)
    missing = None if answers.unknown is None else bit.unpack(answers.unknown, 0, answers.rows)
    return NumericVector(Kind.BOOLEAN, true, missing)


def _made(inner: b.BoundValue, window: Window) -> Vector:
    """Evaluate a made column; of a round over the rows, whole blocks of a fixed size are worked out and kept."""
    if isinstance(inner, b.ColumnValue | b.Made | b.Constant):
        return evaluate(inner, window)
    if not isinstance(window, Span) or len(window) < _KEPT_FROM_ROWS:
        return evaluate(inner, window)
    first = window.first_row - window.first_row % _KEPT_ROWS
    end = min(first + _KEPT_ROWS, window.table.rows)
    if window.end_row > end:
        return evaluate(inner, window)
    block = Span(window.table, first, end)
    whole = window.table.kept.get_or((inner, first, end), lambda: evaluate(inner, block))
    return part_of(whole, window.first_row - first, window.end_row - first)


def zone_of(value: b.BoundValue, table: Table) -> str:
    """Return the zone whose clock shows a value: that of all the columns its instants come from, if it is one."""
    zones = _zones(value, table)
    return zones.pop() if len(zones) == 1 else ""


def _zones(value: b.BoundValue, table: Table) -> set[str]:
    match unwrapped(value):
        case b.ColumnValue(column):
            return {table.columns[column].info.zone}
        case b.NoValue():
            return set()
        case b.Case(branches, otherwise):
            sources = [*(then for _, then in branches), otherwise]
        case b.Call(arguments=arguments):
            sources = [part for part in arguments if part.kind is Kind.INSTANT]
        case _:
            sources = []
    return set[str]().union(*(_zones(part, table) for part in sources)) if sources else {""}


def on_the_clock(vector: Vector, value: b.BoundValue, table: Table) -> Vector:
    """Return the vector of a value with the zone whose clock shows it, if it holds instants."""
    if vector.kind is not Kind.INSTANT or not isinstance(vector, NumericVector):
        return vector
    return replace(vector, zone=zone_of(value, table))


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
        one = np.frombuffer(value.encode() + b"\n", dtype=np.uint8)
        return PlainVector(np.arange(rows + 1, dtype=np.int64) * len(one), np.tile(one, rows))
    if isinstance(value, int) and not -(2**63) <= value < 2**63:
        return NumericVector(Kind.NUMBER, np.full(rows, _double(value)))
    number = _double(value) if isinstance(value, Decimal) else value
    return NumericVector(constant.kind, np.full(rows, number, dtype=STORAGE_DTYPE[constant.kind]))
