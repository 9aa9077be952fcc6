"""Sums of many groups at once, each exact and rounded once, whatever way the rows were cut into parts.

Doubles are taken apart as in :mod:`yardcut.core.profile.sums`, but at edges that are the same for all blocks, so that
what lies between two edges adds up in integers: a group's sum is then a few integers, each times a power of two.
"""

from __future__ import annotations

import math
from dataclasses import field
from fractions import Fraction

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array

_BLOCK_BITS = 15
_BLOCK = 1 << _BLOCK_BITS
"""Rows that are added in doubles: so many values between two edges add without rounding."""
_ROWS_TAKEN_APART = 1 << 16
"""Rows that are taken apart at once, or as many as there are groups: what is made of them stays near the processor."""
_STEP = 52 - _BLOCK_BITS - 1
"""Bits between two edges."""
_GRID = 4
"""The first edge of a block is a power of two to a multiple of this: near its largest value, and one of few."""
_HALF, _LOW = 32, (1 << 32) - 1
_LARGEST = 2.0**960
_DOWN = 2.0**-512
_MOST_ADDS = 1 << 9
"""Blocks after which what was added is carried over: until then it fits in 64 bits."""


@dataclass(slots=True)
class _Part:
    """Integers (int64, one a group) between two edges: ``high`` times two to the 32nd, and ``low``."""

    high: Array
    low: Array
    adds: int = 0

    def add(self, units: Array, times: int = 1) -> None:
        self.low += units
        self.adds += times
        if self.adds >= _MOST_ADDS:
            self.carry()

    def carry(self) -> None:
        self.high += self.low >> _HALF
        self.low &= _LOW
        self.adds = 1


def block_for(most_in_a_group: int) -> int:
    """Return how many rows may be added at once, where no group has more than so many.

    >>> block_for(3) > block_for(1_000_000)
    True
    """
    return _BLOCK if most_in_a_group > _BLOCK else 1 << 24


@dataclass(slots=True)
class GroupedSums:
    """The exact sums of some groups: integers between edges by the exponent of their unit."""

    groups: int
    block: int = _BLOCK
    """Rows that are added at once: as many as a group may have, where all groups are small."""
    parts: dict[int, _Part] = field(default_factory=dict)
    odd: dict[int, set[float]] = field(default_factory=dict)
    """Infinite values, by group."""

    def _part(self, exponent: int) -> _Part:
        found = self.parts.get(exponent)
        if found is None:
            nothing = np.zeros(self.groups, np.int64)
            found = self.parts[exponent] = _Part(nothing, nothing.copy())
        return found

    def add_integers(self, numbers: Array, values: Array) -> None:
        """Add integers (int64) of the groups ``numbers``."""
        for start in range(0, len(values), self.block):
            some, at = values[start : start + self.block], numbers[start : start + self.block]
            if int(some.max()) < 1 << 36 and int(some.min()) > -(1 << 36):
                self._part(0).add(self._counted(at, some.astype(np.float64)))
                continue
            self._part(_HALF).add(self._counted(at, (some >> _HALF).astype(np.float64)))
            self._part(0).add(self._counted(at, (some & _LOW).astype(np.float64)))

    def _counted(self, numbers: Array, weights: Array) -> Array:
        return np.bincount(numbers, weights, self.groups).astype(np.int64)

    def add_doubles(self, numbers: Array, values: Array) -> None:
        """Add doubles (float64, none of them NaN) of the groups ``numbers``."""
        rows = max(_ROWS_TAKEN_APART, min(self.groups, self.block))
        for start in range(0, len(values), rows):
            at = numbers[start : start + rows].astype(np.intp)  # once, and not with every count
            self._take_apart(at, values[start : start + rows])

    def _add_units(self, exponent: int, numbers: Array, units: Array) -> None:
        part = self._part(exponent)
        for start in range(0, len(units), self.block):
            part.add(self._counted(numbers[start : start + self.block], units[start : start + self.block]))

    def _take_apart(self, numbers: Array, values: Array) -> None:
        """Add values at edges that are the same for all of them."""
        largest = float(np.abs(values).max())
        if not math.isfinite(largest):
            finite = np.isfinite(values)
            for number, value in zip(numbers[~finite].tolist(), values[~finite].tolist(), strict=True):
                self.odd.setdefault(number, set()).add(value)
            numbers, values = numbers[finite], values[finite]
            largest = float(np.abs(values).max(initial=0.0))
        down = 0
        if largest > _LARGEST:  # an edge above it would be none; so far down nothing of it is lost but what is tiny
            tiny = np.abs(values) < 1.0
            if tiny.any():
                self._take_apart(numbers[tiny], values[tiny])
                numbers, values = numbers[~tiny], values[~tiny]
            values, largest, down = values * _DOWN, largest * _DOWN, 512
        if not largest:
            return
        edge_at = -(-math.frexp(largest)[1] // _GRID) * _GRID
        rest = values
        while True:
            unit = edge_at - _STEP
            if unit < -1074:
                unit = -1074
            units = _units_of(rest, unit)
            self._add_units(unit + down, numbers, units)
            units = np.ldexp(units, unit) if unit < -1000 else np.multiply(units, math.ldexp(1.0, unit), out=units)
            rest = np.subtract(rest, units, out=units)
            if not rest.any():
                return
            edge_at -= _STEP

    def merged(self, other: GroupedSums) -> GroupedSums:
        """Add the sums of other rows."""
        for exponent, part in other.parts.items():
            own = self._part(exponent)
            part.carry()
            own.high += part.high
            own.add(part.low)
        for number, values in other.odd.items():
            self.odd.setdefault(number, set()).update(values)
        return self

    def exact(self) -> list[int | Fraction | float]:
        """Return the sum of each group: exact, or infinite, or NaN where both infinities are there."""
        found, down = self._integers(np.arange(self.groups))
        exact: list[int | Fraction | float] = [total if not down else Fraction(total, 1 << down) for total in found]
        for number, values in self.odd.items():
            exact[number] = sum(values, 0.0)
        return exact

    def doubles(self, by: Array | None = None) -> Array:
        """Return the sum of each group (float64), divided by a count each where those are given, rounded once.

        A group whose count is 0 has no meaning here.
        """
        counts = np.ones(self.groups, np.int64) if by is None else np.maximum(by, 1)
        found, is_right = self._quick(counts)
        slow = np.flatnonzero(~is_right)
        totals, down = self._integers(slow)
        found[slow] = [
            _divided(total, count << down) for total, count in zip(totals, counts[slow].tolist(), strict=True)
        ]
        for number, values in self.odd.items():
            found[number] = sum(values, 0.0)
        return found

    def _integers(self, groups: Array) -> tuple[list[int], int]:
        """Return the finite sums of some groups as integers times two to the minus ``down``th."""
        lowest = min(0, *self.parts, 0)
        found = [0] * len(groups)
        for exponent, part in self.parts.items():
            by = exponent - lowest
            for place, (high, low) in enumerate(
                zip(part.high[groups].tolist(), part.low[groups].tolist(), strict=True)
            ):
                found[place] += ((high << _HALF) + low) << by
        return found, -lowest

    def _quick(self, counts: Array) -> tuple[Array, Array]:
        """Return the sums by counts, and where they are right to the last bit; for the others it takes longer.

        What was added is put together as two integers that are doubles both, a fixed number of bits apart: one addition
        of doubles rounds once (IEEE 754, 5.4.1), and so does one division of integers that are doubles.
        """
        nothing = np.zeros(self.groups), np.ones(self.groups, np.bool_)
        if not self.parts:
            return nothing
        lowest, highest = min(self.parts), max(self.parts)
        wrong = nothing[0], np.zeros(self.groups, np.bool_)
        if highest - lowest > _APART + 20 or lowest < -1000 or highest > 900:
            return wrong
        upper, lower = np.zeros(self.groups, np.int64), np.zeros(self.groups, np.int64)
        fits = np.ones(self.groups, np.bool_)
        for exponent, part in self.parts.items():
            part.carry()
            above, shift = divmod(exponent - lowest, _APART)
            fits &= np.abs(part.high) < 1 << max(0, 27 - shift)
            whole = ((part.high << _HALF) + part.low) << shift
            if above:
                upper += whole
            else:
                lower += whole
        upper += lower >> _APART
        lower &= (1 << _APART) - 1
        fits &= np.abs(upper) < 1 << 53
        total = np.ldexp(upper.astype(np.float64), _APART) + lower
        is_whole = fits & (np.abs(upper) < 1 << (53 - _APART))
        return np.ldexp(total / counts, lowest), np.where(counts == 1, fits, is_whole)


_APART = 36


def _divided(total: int, by: int) -> float:
    """Return a quotient of integers, rounded once; infinite beyond the largest double."""
    try:
        return total / by
    except OverflowError:
        return math.inf if total > 0 else -math.inf


def _units_of(values: Array, unit: int) -> Array:
    """Return how many times two to the ``unit``th each value holds, cut off towards zero (whole, float64)."""
    if unit <= -1074:
        return np.ldexp(values, 1074)
    if unit < -1000:
        return np.trunc(np.ldexp(values, -unit))
    units = values * math.ldexp(1.0, -unit)
    return np.trunc(units, out=units)
