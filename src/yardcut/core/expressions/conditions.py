"""Answering the pieces of conditions, and whole conditions from them."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from functools import reduce

import numpy as np

from yardcut.core.expressions.testing.answers import Answers, all_of, any_of, is_truth, joined, of_test
from yardcut.core.expressions.testing.comparing_numbers import OPERATORS, SWAPPED, compare_constant, compare_vectors
from yardcut.core.expressions.testing.text_tests import (
    compare_text,
    fold_trimmed,
    match_pairs,
    match_text,
    one_of_texts,
)
from yardcut.core.expressions.values import evaluate
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import pieces_of, unwrapped
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector
from yardcut.core.table.window import Window
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS


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
    rows = len(window)
    gone: Array | None = None

    def read(value: b.BoundValue) -> Vector | None:
        return None if isinstance(value, b.Constant) else seen(value)

    def seen(value: b.BoundValue) -> Vector:
        """Evaluate, and note where there is no value."""
        nonlocal gone
        vector = evaluate(value, window)
        found = _missing_bits(value, vector, window)
        gone = found if gone is None else gone if found is None else gone | found
        return vector

    match test:
        case b.Compare(operator, left, right, ignoring):
            one, other = read(left), read(right)
            return of_test(_compare(operator, left, one, right, other, ignoring, rows), gone)
        case b.Within():
            return _within(test, window)
        case b.OneOf(value, constants, ignoring):
            true = _one_of(value, read(value), constants, ignoring, rows)
            return of_test(true, gone)
        case b.TextMatch(value=value):
            vector = seen(value)
            assert isinstance(vector, CodedVector | PlainVector)
            return of_test(match_text(vector, test), gone)
        case b.TextPair(value=value, part=part):
            one, other = seen(value), seen(part)
            true, wrong = match_pairs(one.texts(), other.texts(), test)
            return of_test(true, gone if wrong is None else bit.pack(wrong) if gone is None else gone | bit.pack(wrong))
        case b.Absent(value):
            seen(value)
            return Answers(rows, np.zeros((rows + 7) // 8, dtype=np.uint8) if gone is None else gone)
        case b.Distinct(left, right):
            return _distinct(left, right, window)
        case b.Several(pieces, every):
            return _several([answer_piece(piece, window) for piece in pieces], every)
        case b.BooleanValue(value):
            inner = unwrapped(value)
            if isinstance(inner, b.Truth):  # its answers as they are, without a look at values
                return answer_condition(inner.condition, window)
            vector = seen(value)
            assert isinstance(vector, NumericVector)
            return of_test(vector.values != 0, gone)


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


def _compare(
    operator: str,
    left: b.BoundValue,
    one: Vector | None,
    right: b.BoundValue,
    other: Vector | None,
    ignoring: bool,
    rows: int,
) -> Array:
    if one is None:
        if other is None:
            return np.full(rows, _constants(operator, left, right, ignoring))
        return _compare(SWAPPED[operator], right, other, left, None, ignoring, rows)
    if other is None:
        assert isinstance(right, b.Constant)
        return _against(one, operator, right, ignoring)
    if isinstance(one, NumericVector):
        assert isinstance(other, NumericVector)
        return compare_vectors(one, operator, other)
    return _compare_texts(one, operator, other, ignoring)


def _against(vector: Vector, operator: str, constant: b.Constant, ignoring: bool) -> Array:
    value = constant.value
    if isinstance(vector, NumericVector):
        assert not isinstance(value, str)
        if vector.kind.is_temporal and vector.kind is not constant.kind:
            other = NumericVector(constant.kind, np.full(len(vector), int(value), dtype=np.int64))
            return compare_vectors(vector, operator, other)
        return compare_constant(vector, operator, value)
    assert isinstance(value, str)
    return compare_text(vector, operator, value, ignoring)


def _constants(operator: str, left: b.BoundValue, right: b.BoundValue, ignoring: bool) -> bool:
    assert isinstance(left, b.Constant)
    assert isinstance(right, b.Constant)
    one, other = left.value, right.value
    if left.kind is not right.kind and left.kind.is_temporal:
        one, other = as_moment(left), as_moment(right)
    if left.kind.is_numeric:  # a decimal is the double nearest to it; an integer is compared with it by value
        return bool(OPERATORS[operator](as_compared(left), as_compared(right)))
    if ignoring:
        one, other = fold_trimmed(str(one)), fold_trimmed(str(other))
    return bool(OPERATORS[operator](one, other))


def as_compared(constant: b.Constant) -> int | float:
    """Return a number as it is compared with others."""
    value = constant.value
    assert isinstance(value, int | Decimal)
    try:
        return float(value) if isinstance(value, Decimal) else value
    except OverflowError:
        return float("inf") if value > 0 else float("-inf")


def as_moment(constant: b.Constant) -> int:
    """Return a day or a moment as microseconds: a day beside a moment is its midnight."""
    assert isinstance(constant.value, int)
    return constant.value * DAY_MICROSECONDS if constant.kind is Kind.DATE else constant.value


def _compare_texts(one: Vector, operator: str, other: Vector, ignoring: bool) -> Array:
    if (
        isinstance(one, CodedVector)
        and isinstance(other, CodedVector)
        and one.dictionary is other.dictionary
        and not ignoring
    ):
        ranks = np.append(one.dictionary.ranks(), np.uint32(0))
        result: Array = OPERATORS[operator](ranks[one.codes], ranks[other.codes])
        return result
    compare = OPERATORS[operator]
    pairs = zip(one.texts(), other.texts(), strict=True)
    if ignoring:
        pairs = zip(map(_folded, one.texts()), map(_folded, other.texts()), strict=True)
    return np.array([a is not None and c is not None and compare(a, c) for a, c in pairs], dtype=np.bool_)


def _folded(text: str | None) -> str | None:
    return None if text is None else fold_trimmed(text)


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
        return of_test(_compare(operator, self.value, self.vector, other.value, other.vector, False, self.rows), gone)


def _one_of(
    value: b.BoundValue, vector: Vector | None, constants: tuple[b.Constant, ...], ignoring: bool, rows: int
) -> Array:
    if vector is not None and not isinstance(vector, NumericVector):
        return one_of_texts(vector, tuple(str(constant.value) for constant in constants), ignoring)
    found = np.zeros(rows, dtype=np.bool_)
    for constant in constants:
        found |= _compare("=", value, vector, constant, None, ignoring, rows)
    return found


def shown_value(value: b.BoundValue, window: Window) -> str | None:
    """Return the text of an expression's value for the first row of a window, as the grid shows it."""
    return evaluate(value, window).texts()[0]
