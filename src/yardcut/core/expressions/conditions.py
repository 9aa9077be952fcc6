"""Answers of conditions in three-valued logic: true, false, or unknown for want of a value (ISO/IEC 9075-2, 8.21)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardcut.core.expressions.comparing import OPERATORS, SWAPPED, compare_constant, compare_vectors
from yardcut.core.expressions.text_tests import compare_text, fold_trimmed, match_text, one_of_texts
from yardcut.core.expressions.values import evaluate
from yardcut.core.language import bound as b
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector


@dataclass(frozen=True, slots=True, eq=False)
class Answers:
    """One bit a row for "is true" and one for "is false"; neither means unknown."""

    true: Array
    false: Array

    def inverse(self) -> Answers:
        """Return NOT of these answers."""
        return Answers(self.false, self.true)

    def unknown(self) -> Array:
        """Return the bits of rows whose answer is unknown; what the last byte has over is set too."""
        return ~(self.true | self.false)


def answer_piece(piece: b.Piece, table: Table, first_row: int, end_row: int) -> Answers:
    """Evaluate one piece for some rows; ``first_row`` must be a multiple of 8."""
    true, unknown = _test(piece.test, table, first_row, end_row)
    bits, there = bit.pack(true), bit.ones(end_row - first_row)
    if unknown is not None:
        there &= ~bit.pack(unknown)
    answers = Answers(bits & there, there & ~bits)
    return answers.inverse() if piece.negated else answers


def combine(condition: b.BoundCondition, answers: dict[b.Piece, Answers], rows: int) -> Answers:
    """Combine the answers of the pieces of a condition by AND, OR and NOT."""
    match condition:
        case b.Piece():
            return answers[condition]
        case b.Inverse(item):
            return combine(item, answers, rows).inverse()
        case b.AnswerIs(item, truth, negated):
            inner = combine(item, answers, rows)
            everything = bit.ones(rows)
            is_so = {True: inner.true, False: inner.false, None: inner.unknown() & everything}[truth]
            other = everything & ~is_so
            return Answers(other, is_so) if negated else Answers(is_so, other)
        case b.AllOf(items) | b.AnyOf(items):
            parts = [combine(item, answers, rows) for item in items]
            true, false = parts[0].true, parts[0].false
            for part in parts[1:]:
                if isinstance(condition, b.AllOf):
                    true, false = true & part.true, false | part.false
                else:
                    true, false = true | part.true, false & part.false
            return Answers(true, false)


def _unknown(*vectors: Vector | None) -> Array | None:
    found: Array | None = None
    for vector in vectors:
        mask = None if vector is None else vector.missing_mask()
        if mask is not None:
            found = mask if found is None else found | mask
    return found


def _test(test: b.BoundTest, table: Table, first_row: int, end_row: int) -> tuple[Array, Array | None]:
    """Return where a test is true (arbitrary where unknown), and where it is unknown."""

    def read(value: b.BoundValue) -> Vector | None:
        return None if isinstance(value, b.Constant) else evaluate(value, table, first_row, end_row)

    rows = end_row - first_row
    match test:
        case b.Compare(operator, left, right, ignoring):
            one, other = read(left), read(right)
            return _compare(operator, left, one, right, other, ignoring, rows), _unknown(one, other)
        case b.Within(value, low, high):
            middle, bottom, top = read(value), read(low), read(high)
            return _within(test, middle, bottom, top, rows), _unknown(middle, bottom, top)
        case b.OneOf(value, constants, ignoring):
            vector = read(value)
            return _one_of(value, vector, constants, ignoring, rows), _unknown(vector)
        case b.TextMatch(value=value):
            vector = evaluate(value, table, first_row, end_row)
            assert isinstance(vector, CodedVector | PlainVector)
            return match_text(vector, test), vector.missing_mask()
        case b.Absent(value):
            vector = evaluate(value, table, first_row, end_row)
            mask = vector.missing_mask()
            return (np.zeros(rows, dtype=np.bool_) if mask is None else mask), None
        case b.BooleanValue(value):
            vector = evaluate(value, table, first_row, end_row)
            assert isinstance(vector, NumericVector)
            return vector.values != 0, vector.missing_mask()


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
    if ignoring:
        one, other = fold_trimmed(str(one)), fold_trimmed(str(other))
    return bool(OPERATORS[operator](one, other))


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


def _within(test: b.Within, value: Vector | None, low: Vector | None, high: Vector | None, rows: int) -> Array:
    def between(bottom: b.BoundValue, first: Vector | None, top: b.BoundValue, second: Vector | None) -> Array:
        above = _compare(">=", test.value, value, bottom, first, False, rows)
        return above & _compare("<=", test.value, value, top, second, False, rows)

    inside = between(test.low, low, test.high, high)
    return inside | between(test.high, high, test.low, low) if test.symmetric else inside


def _one_of(
    value: b.BoundValue, vector: Vector | None, constants: tuple[b.Constant, ...], ignoring: bool, rows: int
) -> Array:
    if vector is not None and not isinstance(vector, NumericVector):
        return one_of_texts(vector, tuple(str(constant.value) for constant in constants), ignoring)
    found = np.zeros(rows, dtype=np.bool_)
    for constant in constants:
        found |= _compare("=", value, vector, constant, None, ignoring, rows)
    return found


def shown_value(value: b.BoundValue, table: Table, row_id: int) -> str | None:
    """Return the text of an expression's value for one row, as the grid shows it."""
    start = row_id - row_id % 8
    texts = evaluate(value, table, start, min(start + 8, table.rows)).texts()
    return texts[row_id - start]
