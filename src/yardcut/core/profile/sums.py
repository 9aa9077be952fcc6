"""Sums: the exact sum of the values, rounded once (``math.fsum`` is the definition).

So a sum does not depend on how the rows were cut, on threads, on the order of the rows, or on the processor. Doubles
are taken apart, block by block, into high parts that add without rounding in any order, and what is left of them
(AccSum: Rump, Ogita and Oishi, Accurate floating-point summation, 2008); the blocks' sums are added as fractions.
"""

from __future__ import annotations

import math
from dataclasses import field
from fractions import Fraction

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import BLOCK_ROWS, Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector, part_of
from yardcut.core.table.window import Span

_HALF = 32
_LOW = (1 << _HALF) - 1
_DOUBLE_BITS = 53
_LARGEST_EXPONENT = 1023
_CHUNK = 1 << 15
_ROOT_BITS = 72
_ROOM = 16
"""2 to this power is larger than a chunk and two."""
_MANY = 128

Exact = int | Fraction | float
"""A sum: of integers an integer, of doubles a fraction; infinite or NaN where a value is infinite."""


def exact_sum(values: Array) -> Exact:
    """Return the exact sum of doubles (float64); O(n), in chunks that stay in the processor's cache.

    >>> exact_sum(np.array([1e100, 1.0, -1e100]))
    Fraction(1, 1)
    """
    parts: list[float] = []
    one, other = np.empty((2, min(len(values), _CHUNK)))
    rest_of = Fraction(0)
    for start in range(0, len(values), _CHUNK):
        chunk = values[start : start + _CHUNK]
        sizes = np.abs(chunk, out=one[: len(chunk)])
        largest, least = float(sizes.max()), float(sizes.min())
        if not math.isfinite(largest):
            return _not_finite(values)
        if math.frexp(largest)[1] + _ROOM > _LARGEST_EXPONENT:
            rest_of += sum(map(Fraction, chunk.tolist()), Fraction(0))
        elif largest:
            parts += _taken_apart(chunk, largest, least, one[: len(chunk)], other[: len(chunk)])
    if len(parts) > _MANY:
        return rest_of + exact_sum(np.array(parts))
    return sum(map(Fraction, parts), rest_of)


def _not_finite(values: Array) -> float:
    """Return the sum of values of which one is infinite, or NaN where both infinities are there."""
    return sum(set(values[~np.isfinite(values)].tolist()), 0.0)


def _taken_apart(values: Array, largest: float, least: float, one: Array, other: Array) -> list[float]:
    """Return doubles whose sum is that of some finite ones, whose sizes are known; two buffers are written over.

    Each part holds the bits of all values above an edge: multiples of one unit, few enough to add without rounding.
    """
    exponent = math.frexp(largest)[1] + _ROOM
    last_bit = math.frexp(least)[1] - _DOUBLE_BITS if least else None
    rest, parts = values, []
    while True:
        edge = math.ldexp(1.0, exponent)
        high = np.add(rest, edge, out=other)
        high -= edge
        parts.append(float(high.sum()))
        if last_bit is not None and exponent - _DOUBLE_BITS <= last_bit:
            return parts
        rest, one, other = np.subtract(rest, high, out=high), other, one
        if last_bit is None and not rest.any():
            return parts
        exponent += _ROOM - _DOUBLE_BITS


def square_root(value: Fraction) -> Fraction:
    """Return a fraction that a double is rounded from as it would be from the root of another one, which is exact.

    It has more binary digits than a double, and a last one that is set where the root has further ones.

    >>> as_double(square_root(Fraction(2))) == 2**0.5, square_root(Fraction(9, 4))
    (True, Fraction(3, 2))
    """
    numerator, denominator = value.as_integer_ratio()
    shift = max(0, _ROOT_BITS - (numerator.bit_length() - denominator.bit_length()) // 2)
    root = math.isqrt((numerator << 2 * shift) // denominator)
    is_exact = root * root * denominator == numerator << 2 * shift
    return Fraction(2 * root + (not is_exact), 2 << shift)


def as_double(total: Exact) -> float:
    """Return a sum rounded to the nearest double; infinite beyond the largest."""
    try:
        return float(total)
    except OverflowError:
        return math.inf if total > 0 else -math.inf


def _sum_of_kept(values: Array, kept: Array) -> Exact:
    """Return the exact sum of some of the values: one of them stands in for the rest, and is taken off again.

    A zero in their place would hide where the bits of the least value end.
    """
    stand_in = float(values[int(np.argmax(kept))])
    rest = len(values) - int(np.count_nonzero(kept))
    if not math.isfinite(stand_in):
        return _not_finite(values[kept])
    return exact_sum(np.where(kept, values, stand_in)) - rest * Fraction(stand_in)


@dataclass(frozen=True, slots=True, eq=False)
class SumRound(Round[list[Exact], Exact | None]):
    """Adds a numeric expression over the members, exactly. No value, no sum."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> list[Exact]:
        """Add one part."""
        found: list[Exact] = []
        whole_part = evaluate(self.value, Span(table, part.first_row, part.end_row))
        for start in range(part.first_row, part.end_row, BLOCK_ROWS):
            end = min(start + BLOCK_ROWS, part.end_row)
            vector = part_of(whole_part, start - part.first_row, end - part.first_row)
            assert isinstance(vector, NumericVector)
            kept = None if self.members is None else bit.unpack(self.members, start, end)
            missing = vector.missing_mask()
            if missing is not None:
                kept = ~missing if kept is None else kept & ~missing
            if kept is not None and not kept.any():
                continue
            if vector.values.dtype.kind == "f":
                values = vector.values.astype(np.float64, copy=False)
                found.append(exact_sum(values) if kept is None else _sum_of_kept(values, kept))
            else:
                whole = vector.values.astype(np.int64)
                whole = whole if kept is None else whole[kept]
                high, low = whole >> _HALF, whole & _LOW
                found.append((int(high.sum()) << _HALF) + int(low.sum()))
        return [sum(found)] if found else []

    def merge(self, one: list[Exact], other: list[Exact]) -> list[Exact]:
        """Add."""
        return [one[0] + other[0]] if one and other else one or other

    def finish(self, state: list[Exact]) -> Exact | None:
        """Return the sum."""
        return state[0] if state else None
