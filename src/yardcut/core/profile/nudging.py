"""Steps of round size over the range of a column, for bounds that are moved by hand."""

from __future__ import annotations

import math
from decimal import Decimal
from fractions import Fraction

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS

_HOUR, _MINUTE, _SECOND = 3_600_000_000, 60_000_000, 1_000_000
_STEPS = 40
DAYS = (1, 2, 7, 14, 30, 91, 182, 365, 730, 3650)
"""Days that people step by."""
MOMENTS = (
    1, 1000, _SECOND, 10 * _SECOND, _MINUTE, 10 * _MINUTE, _HOUR, 6 * _HOUR,
    *(DAY_MICROSECONDS * days for days in DAYS),
)  # fmt: skip
"""Microseconds that people step by."""


@dataclass(frozen=True, slots=True)
class Scale:
    """The range of a column's values, and a round step of about a fortieth of it. Values are exact."""

    kind: Kind
    least: Fraction
    most: Fraction
    step: Fraction

    @classmethod
    def over(cls, kind: Kind, least: float | int, most: float | int) -> Scale:
        """Return the scale over a range of numbers, days or microseconds."""
        low, high = Fraction(least), Fraction(most)
        return cls(kind, low, high, _step(kind, high - low))

    def moved(self, value: Fraction, steps: Fraction) -> Fraction:
        """Return a value so many steps further, on the step's own raster and within the range."""
        unit = self.step * abs(steps)
        if self.kind is not Kind.NUMBER:
            unit = Fraction(max(1, round(unit)))
        place = value / unit
        to = (math.floor(place) + 1 if steps > 0 else math.ceil(place) - 1) * unit
        return min(self.most, max(self.least, to))

    def written(self, value: Fraction) -> str:
        """Write a value as the grid shows it."""
        if self.kind is Kind.NUMBER:
            return formatter(self.kind)(float(value))
        return formatter(self.kind)(int(value))

    def place(self, value: Fraction, width: int) -> int:
        """Return where a value stands in a drawing of some cells."""
        span = self.most - self.least
        return 0 if not span else min(width - 1, int((value - self.least) / span * width))


def _step(kind: Kind, span: Fraction) -> Fraction:
    wanted = span / _STEPS
    if kind is Kind.DATE:
        return Fraction(next((step for step in DAYS if step >= wanted), DAYS[-1]))
    if kind is Kind.TIMESTAMP:
        return Fraction(next((step for step in MOMENTS if step >= wanted), MOMENTS[-1]))
    if not wanted:
        return Fraction(1)
    exponent = math.floor(math.log10(float(wanted)))
    for digit in (1, 2, 5, 10):
        step = Fraction(Decimal(digit).scaleb(exponent))
        if step >= wanted:
            break
    return max(step, Fraction(1)) if kind is Kind.INTEGER else step
