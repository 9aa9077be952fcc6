"""Sums of many groups at once, each exact and rounded once, whatever way the rows were cut into parts.

Doubles are taken apart as in :mod:`yardcut.core.profile.sums`, but at edges that are the same for all blocks, so that
what lies between two edges adds up in integers: a group's sum is then a few integers, each times a power of two.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from yardcut.core.profile.sums import as_double
from yardcut.core.table.array_file import Array

_BLOCK_BITS = 15
_BLOCK = 1 << _BLOCK_BITS
"""Rows that are added in doubles: so many values between two edges add without rounding."""
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


@dataclass(slots=True)
class GroupedSums:
    """The exact sums of some groups: integers between edges by the exponent of their unit."""

    groups: int
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
        for start in range(0, len(values), _BLOCK):
            some, at = values[start : start + _BLOCK], numbers[start : start + _BLOCK]
            if int(some.max()) < 1 << 36 and int(some.min()) > -(1 << 36):
                self._part(0).add(self._counted(at, some.astype(np.float64)))
                continue
            self._part(_HALF).add(self._counted(at, (some >> _HALF).astype(np.float64)))
            self._part(0).add(self._counted(at, (some & _LOW).astype(np.float64)))

    def _counted(self, numbers: Array, weights: Array) -> Array:
        return np.bincount(numbers, weights, self.groups).astype(np.int64)

    def add_doubles(self, numbers: Array, values: Array) -> None:
        """Add doubles (float64, none of them NaN) of the groups ``numbers``."""
        for start in range(0, len(values), _BLOCK):
            self._add_block(numbers[start : start + _BLOCK], values[start : start + _BLOCK])

    def _add_block(self, numbers: Array, values: Array) -> None:
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
                self._add_block(numbers[tiny], values[tiny])
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
            high = _above(rest, unit)
            self._part(unit + down).add(self._counted(numbers, _in_units(high, unit)))
            rest = rest - high
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
        lowest = min(0, *self.parts, 0)
        found = [0] * self.groups
        for exponent, part in self.parts.items():
            by = exponent - lowest
            for number, (high, low) in enumerate(zip(part.high.tolist(), part.low.tolist(), strict=True)):
                found[number] += ((high << _HALF) + low) << by
        exact: list[int | Fraction | float] = [
            total if not lowest else Fraction(total, 1 << -lowest) for total in found
        ]
        for number, values in self.odd.items():
            exact[number] = sum(values, 0.0)
        return exact

    def doubles(self, by: Array | None = None) -> Array:
        """Return the sum of each group (float64), divided by a count each where those are given, rounded once.

        A group whose count is 0 has no meaning here.
        """
        units = self._units()
        if units is not None:
            total, exponent = units
            if by is None:
                return np.ldexp(total.astype(np.float64), exponent)
            if int(np.abs(total).max(initial=0)) < 1 << 53:  # both are doubles, and one division rounds once
                return np.ldexp(total / np.maximum(by, 1), exponent)
        exact = self.exact()
        if by is not None:
            exact = [
                total if isinstance(total, float) else Fraction(total) / max(count, 1)
                for total, count in zip(exact, by.tolist(), strict=True)
            ]
        return np.array([as_double(total) for total in exact], np.float64)

    def _units(self) -> tuple[Array, int] | None:
        """Return the sums as integers of 64 bits (which numpy rounds rightly) times two to one power, if they are."""
        if self.odd or not self.parts:
            return None if self.odd else (np.zeros(self.groups, np.int64), 0)
        lowest, highest = min(self.parts), max(self.parts)
        if len(self.parts) > 8 or highest - lowest > 48 or lowest < -1000 or highest > 900:
            return None
        total = np.zeros(self.groups, np.int64)
        for exponent, part in self.parts.items():
            part.carry()
            room = 59 - (exponent - lowest)
            if part.high.any() and int(np.abs(part.high).max()) >= 1 << max(0, room - _HALF):
                return None
            whole = (part.high << _HALF) + part.low
            if int(np.abs(whole).max(initial=0)) >= 1 << room:
                return None
            total += whole << (exponent - lowest)
        return total, lowest


def _above(values: Array, unit: int) -> Array:
    """Return what of each value is a multiple of two to the ``unit``th, cut off towards zero."""
    if unit <= -1074:
        return values
    return np.trunc(_in_units(values, unit)) * _power(unit)


def _in_units(values: Array, unit: int) -> Array:
    if unit < -1000:
        return np.ldexp(values, -unit)
    return values * _power(-unit)


def _power(exponent: int) -> float:
    return math.ldexp(1.0, exponent)
