"""Rounds that keep one state for each group: how many values, what they add up to, the least or largest."""

from __future__ import annotations

from dataclasses import field
from fractions import Fraction
from typing import Any

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.profile.members import members_with_values
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Span
from yardcut.core.tallying.grouped_sums import GroupedSums


@dataclass(frozen=True, slots=True, eq=False)
class CountRound(Round[Array, Array]):
    """Counts the members of each group (int64) that have a value, or all of them where there is no ``value``."""

    value: BoundValue | None
    members: Array | None = field(metadata=BIT_A_ROW)
    numbers: Array = field(metadata=ONE_A_ROW)
    groups: int

    def scan(self, table: Table, part: Part) -> Array:
        """Count one part."""
        numbers = self.numbers[part.first_row : part.end_row]
        if self.value is None:
            kept = None if self.members is None else bit.unpack(self.members, part.first_row, part.end_row)
        else:
            vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
            kept = members_with_values(vector, self.members, part)
        return np.bincount(numbers if kept is None else numbers[kept], minlength=self.groups)

    def merge(self, one: Array, other: Array) -> Array:
        """Add."""
        return np.asarray(one + other)

    def finish(self, state: Array) -> Array:
        """Return the counts."""
        return state


@dataclass(slots=True)
class Moments:
    """How many values each group has, their exact sum, and that of their squares where that was asked for."""

    counts: Array
    sums: GroupedSums
    squares: GroupedSums | None = None
    wide: dict[int, Fraction] | None = None
    """Squares of integers beyond 26 bits, added up by group."""


@dataclass(frozen=True, slots=True, eq=False)
class MomentsRound(Round[Moments, Moments]):
    """Adds the values of each group, and their squares where ``squared``."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)
    numbers: Array = field(metadata=ONE_A_ROW)
    groups: int
    squared: bool = False
    block: int = 1 << 15
    members_of_each: Array | None = None
    """How many members each group has, where that is known: then only those without a value need be counted."""

    def scan(self, table: Table, part: Part) -> Moments:
        """Add one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        assert isinstance(vector, NumericVector)
        numbers, values = self.numbers[part.first_row : part.end_row], vector.values
        gone = numbers[:0]
        if self.members is not None or (missing := vector.missing_mask()) is not None:
            kept = members_with_values(vector, self.members, part)
            if self.members is None:
                gone = numbers[missing]
            numbers, values = numbers[kept], values[kept]
        if self.members_of_each is None:
            counts = np.bincount(numbers, minlength=self.groups)
        else:
            counts = -np.bincount(gone, minlength=self.groups)
        found = Moments(counts, GroupedSums(self.groups, self.block))
        if not len(values):
            return self._with_squares(found)
        if values.dtype.kind == "f":
            values = values.astype(np.float64, copy=False)
            found.sums.add_doubles(numbers, values)
        else:
            values = values.astype(np.int64)
            found.sums.add_integers(numbers, values)
        return self._with_squares(found, numbers, values)

    def _with_squares(self, found: Moments, numbers: Array | None = None, values: Array | None = None) -> Moments:
        if not self.squared:
            return found
        found.squares, found.wide = GroupedSums(self.groups, self.block), {}
        if numbers is None or values is None:
            return found
        large = np.abs(values) >= (1 << 31 if values.dtype.kind != "f" else 2.0**400)
        if values.dtype.kind == "f":
            large |= (np.abs(values) < 2.0**-400) & (values != 0)
        for number, value in zip(numbers[large].tolist(), values[large].tolist(), strict=True):
            if np.isfinite(value):
                found.wide[number] = found.wide.get(number, Fraction(0)) + Fraction(value) ** 2
        numbers, values = numbers[~large], values[~large]
        if not len(values):
            return found
        if values.dtype.kind != "f":
            found.squares.add_integers(numbers, values * values)
            return found
        product, rest = _exact_square(values)
        found.squares.add_doubles(numbers, product)
        found.squares.add_doubles(numbers, rest)
        return found

    def merge(self, one: Moments, other: Moments) -> Moments:
        """Add."""
        one.counts = one.counts + other.counts
        one.sums = one.sums.merged(other.sums)
        if one.squares is not None and other.squares is not None and one.wide is not None and other.wide is not None:
            one.squares = one.squares.merged(other.squares)
            for number, value in other.wide.items():
                one.wide[number] = one.wide.get(number, Fraction(0)) + value
        return one

    def finish(self, state: Moments) -> Moments:
        """Return them."""
        if self.members_of_each is not None:
            state.counts = state.counts + self.members_of_each
        return state


def _exact_square(values: Array) -> tuple[Array, Array]:
    """Return the square of each double and what it was rounded by (Dekker, A floating-point technique, 1971)."""
    product = values * values
    spread = values * 134217729.0
    high = spread - (spread - values)
    low = values - high
    return product, low * low - ((product - high * high) - 2.0 * high * low)


@dataclass(frozen=True, slots=True, eq=False)
class ExtremesRound(Round[Array, Array]):
    """Finds the least or ``largest`` value of each group, not of texts; it means nothing where there is none."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)
    numbers: Array = field(metadata=ONE_A_ROW)
    groups: int
    largest: bool

    def scan(self, table: Table, part: Part) -> Array:
        """Look at one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        kept = members_with_values(vector, self.members, part)
        numbers = self.numbers[part.first_row : part.end_row][kept]
        assert isinstance(vector, NumericVector)
        values = vector.values[kept]
        found = np.full(self.groups, _worst(values.dtype, self.largest), values.dtype)
        (np.maximum if self.largest else np.minimum).at(found, numbers, values)
        return found

    def merge(self, one: Array, other: Array) -> Array:
        """Take the better ones."""
        return np.asarray((np.maximum if self.largest else np.minimum)(one, other))

    def finish(self, state: Array) -> Array:
        """Return them."""
        return state


def _worst(dtype: np.dtype[Any], largest: bool) -> float | int:
    if dtype.kind == "f":
        return -np.inf if largest else np.inf
    limits = np.iinfo(dtype.type)
    return int(limits.min if largest else limits.max)
