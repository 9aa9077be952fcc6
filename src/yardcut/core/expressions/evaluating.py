"""Values and conditions over the rows of a window: each may hold the other, so they are worked out together."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce

import numpy as np

from yardcut.core.expressions.choosing_values import branches_taken, choose
from yardcut.core.expressions.computing.arithmetic import compute, negative
from yardcut.core.expressions.computing.kernels import KERNELS
from yardcut.core.expressions.computing.text_functions import call_on_texts, word_function
from yardcut.core.expressions.constants import constant_vector
from yardcut.core.expressions.testing.answers import Answers, all_of, any_of, is_truth, joined, of_test
from yardcut.core.expressions.testing.comparing_values import compare, one_of
from yardcut.core.expressions.testing.text_tests import match_pairs, match_text
from yardcut.core.expressions.zones import on_the_clock
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Flags, Spread
from yardcut.core.language.meaning.bound_parts import parts_of, pieces_of, unwrapped
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import missing_vector
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector, part_of, taken_from
from yardcut.core.table.window import Span, Window, row_numbers
from yardcut.core.values.kinds import Kind

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
            return constant_vector(value, len(window))
        case b.NoValue(kind):
            return missing_vector(kind, len(window))
        case b.RowNumber():
            return NumericVector(Kind.INTEGER, row_numbers(window))
        case Flags(bits=bits, table=table):
            return NumericVector(
                Kind.BOOLEAN, bit.at(bits, window.table.ids_in(table, window.row_ids)).astype(np.uint8)
            )
        case Spread(kind=kind, numbers=numbers, values=values, table=table):
            if not len(values):
                return missing_vector(kind, len(window))
            return _spread(values, numbers[window.table.ids_in(table, window.row_ids)])
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


def _spread(values: Vector, rows: Array) -> Vector:
    return taken_from(values, rows)


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


def shown_value(value: b.BoundValue, window: Window) -> str | None:
    """Return the text of an expression's value for the first row of a window, as the grid shows it."""
    return evaluate(value, window).texts()[0]


# conditions


def answer_piece(piece: b.Piece, window: Window) -> Answers:
    """Evaluate one piece for the rows of a window."""
    answers = _answers(piece.test, window)
    return answers.inverse() if piece.negated else answers


def answer_condition(condition: b.BoundCondition, window: Window) -> Answers:
    """Evaluate a whole condition for the rows of a window."""
    return combine(condition, {piece: answer_piece(piece, window) for piece in pieces_of(condition)})


def combine_parts(condition: b.BoundCondition, parts: list[dict[b.Piece, Answers]]) -> Answers:
    """Combine the answers of the pieces of a condition, part by part of a source, into one for all its rows."""
    return joined([combine(condition, answers) for answers in parts])


def combine(condition: b.BoundCondition, answers: dict[b.Piece, Answers]) -> Answers:
    """Combine the answers of the pieces of a condition by AND, OR and NOT."""
    match condition:
        case b.Piece():
            return answers[condition]
        case b.Inverse(item):
            return combine(item, answers).inverse()
        case b.AnswerIs(item, truth, negated):
            found = is_truth(combine(item, answers), truth)
            return found.inverse() if negated else found
        case b.AllOf(items):
            return all_of([combine(item, answers) for item in items])
        case b.AnyOf(items):
            return any_of([combine(item, answers) for item in items])


def _answers(test: b.BoundTest, window: Window) -> Answers:
    match test:
        case b.Within():
            return _within(test, window)
        case b.Distinct(left, right):
            return _distinct(left, right, window)
        case b.Several(pieces, every):
            return _several([answer_piece(piece, window) for piece in pieces], every)
        case b.BooleanValue(value) if isinstance(inner := unwrapped(value), b.Truth):
            return answer_condition(inner.condition, window)  # its answers as they are, without a look at values
        case b.Absent(value):
            rows = len(window)
            seen = _Seen(window)
            seen.vector(value)
            return Answers(rows, np.zeros((rows + 7) // 8, dtype=np.uint8) if seen.gone is None else seen.gone)
    seen = _Seen(window)
    true = _true(test, seen)
    return of_test(true, seen.gone)


class _Seen:
    """Values that were evaluated for a test, and the bits of rows where one of them is missing."""

    def __init__(self, window: Window) -> None:
        self.window = window
        self.gone: Array | None = None

    def vector(self, value: b.BoundValue) -> Vector:
        """Evaluate, and note where there is no value."""
        vector = evaluate(value, self.window)
        self.without(_missing_bits(value, vector, self.window))
        return vector

    def unless_constant(self, value: b.BoundValue) -> Vector | None:
        """Evaluate, but for a constant."""
        return None if isinstance(value, b.Constant) else self.vector(value)

    def without(self, found: Array | None) -> None:
        """Note rows without an answer, as bits."""
        self.gone = found if self.gone is None else self.gone if found is None else self.gone | found


def _true(test: b.BoundTest, seen: _Seen) -> Array:
    """Return for which rows a test is true (bool); arbitrary where a value is missing."""
    rows = len(seen.window)
    match test:
        case b.Compare(operator, left, right, ignoring):
            one, other = seen.unless_constant(left), seen.unless_constant(right)
            return compare(operator, left, one, right, other, ignoring, rows)
        case b.OneOf(value, constants, ignoring):
            return one_of(value, seen.unless_constant(value), constants, ignoring, rows)
        case b.TextMatch(value=value):
            vector = seen.vector(value)
            assert isinstance(vector, CodedVector | PlainVector)
            return match_text(vector, test)
        case b.TextPair(value=value, part=part):
            texts, parts = seen.vector(value), seen.vector(part)
            true, wrong = match_pairs(texts.texts(), parts.texts(), test)
            seen.without(None if wrong is None else bit.pack(wrong))
            return true
        case b.BooleanValue(value):
            numbers = seen.vector(value)
            assert isinstance(numbers, NumericVector)
            found: Array = numbers.values != 0
            return found
    raise AssertionError(f"{type(test).__name__} is no test of values")


def _distinct(left: b.BoundValue, right: b.BoundValue, window: Window) -> Answers:
    """Answer IS DISTINCT FROM (ISO/IEC 9075-2, 8.15)."""
    equal = _answers(b.Compare("=", left, right), window)
    rows = len(window)
    gone = [_answers(b.Absent(side), window).true for side in (left, right)]
    return Answers(rows, bit.ones(rows) & ~equal.true & ~(gone[0] & gone[1]))


def _several(answers: list[Answers], every: bool) -> Answers:
    """Join the answers of several columns; those that are unknown are passed over."""
    rows = answers[0].rows
    if not every:
        return Answers(rows, any_of(answers).true)
    known = reduce(np.bitwise_or, (bit.ones(rows) if each.unknown is None else ~each.unknown for each in answers))
    return Answers(rows, reduce(np.bitwise_and, (each.possible() for each in answers)) & known & bit.ones(rows))


def _missing_bits(value: b.BoundValue, vector: Vector, window: Window) -> Array | None:
    """Return the bits of rows without a value; those of a column are known and need no look at its values."""
    plain = unwrapped(value)
    if isinstance(plain, b.ColumnValue):
        return window.missing(plain.column)
    mask = vector.missing_mask()
    return None if mask is None else bit.pack(mask)


def _within(test: b.Within, window: Window) -> Answers:
    """Answer ``low <= value AND value <= high``; symmetric: either way round, by OR (ISO/IEC 9075-2, 8.3).

    Each side is evaluated once. A bound that is missing leaves the other to say no.
    """
    sides = [_Side.of(side, window) for side in (test.value, test.low, test.high)]
    value, low, high = sides
    found = all_of([value.compared(">=", low), value.compared("<=", high)])
    return any_of([found, all_of([value.compared(">=", high), value.compared("<=", low)])]) if test.symmetric else found


@dataclass(frozen=True, slots=True, eq=False)
class _Side:
    """A side of a comparison: its values (``None``: a constant) and the bits of the rows that have none."""

    value: b.BoundValue
    vector: Vector | None
    missing: Array | None
    rows: int

    @classmethod
    def of(cls, value: b.BoundValue, window: Window) -> _Side:
        if isinstance(value, b.Constant):
            return cls(value, None, None, len(window))
        vector = evaluate(value, window)
        return cls(value, vector, _missing_bits(value, vector, window), len(window))

    def compared(self, operator: str, other: _Side) -> Answers:
        gone = self.missing if other.missing is None else other.missing
        if self.missing is not None and other.missing is not None:
            gone = self.missing | other.missing
        return of_test(compare(operator, self.value, self.vector, other.value, other.vector, False, self.rows), gone)
