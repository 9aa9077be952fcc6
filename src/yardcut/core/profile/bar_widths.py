"""Intervals of equal and round width over the range of a column, and the values that heap up inside one."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from fractions import Fraction

import numpy as np

from yardcut.core.profile.nudging import DAYS, MOMENTS
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import run_starts
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

_WANTED = 20
_DIGITS = (Fraction(1), Fraction(2), Fraction(5))
_LEAST_HEAP = 10
_HEAP_TIMES, _HEAP_SHARE = 4, 5


@dataclass(frozen=True, slots=True)
class Widths:
    """The round widths that intervals over a range of a value may have, the widest last; ``most_bars`` bounds them."""

    kind: Kind
    least: float
    most: float
    most_bars: int

    def width(self, finer: int) -> Fraction:
        """Return a width so many steps finer (or coarser, below 0) than the one that makes about twenty intervals."""
        return self._rung(self._own - finer)

    def clamped(self, finer: int) -> int:
        """Return steps no finer than the values or the most bars allow, and no coarser than one width over all."""
        own, span = self._own, Fraction(self.most) - Fraction(self.least)
        while finer > 0 and (self._is_too_fine(own - finer) or self.bars(self.width(finer)) > self.most_bars):
            finer -= 1
        while finer < 0 and self._rung(own - finer - 1) >= span:
            finer += 1
        return finer

    def bars(self, width: Fraction) -> int:
        """Return how many intervals of a width cover the range."""
        return _place(self.most, width) - _place(self.least, width) + 1

    @property
    def _own(self) -> int:
        wanted = (Fraction(self.most) - Fraction(self.least)) / _WANTED
        if self.kind in _FIXED:
            return next((rung for rung, each in enumerate(_FIXED[self.kind]) if each >= wanted), len(_FIXED[self.kind]))
        rung = len(_DIGITS) * math.floor(math.log10(float(wanted) or 5e-324)) if wanted else 0
        while self._rung(rung) < wanted:
            rung += 1
        return rung if self.kind is Kind.NUMBER else max(0, rung)

    def _rung(self, rung: int) -> Fraction:
        if self.kind not in _FIXED:
            power, digit = divmod(rung, len(_DIGITS))
            return _DIGITS[digit] * Fraction(10) ** power
        fixed = _FIXED[self.kind]
        beyond = max(0, rung - len(fixed) + 1)  # tens of the last one
        return Fraction(fixed[max(0, min(rung, len(fixed) - 1))]) * Fraction(10) ** beyond

    def _is_too_fine(self, rung: int) -> bool:
        """Tell whether numbers are not so fine, or all values are one."""
        if self.kind is not Kind.NUMBER:
            return rung < 0
        return self.least == self.most or self._rung(rung) < 4 * math.ulp(max(-self.least, self.most))


_FIXED = {Kind.DATE: DAYS, Kind.TIMESTAMP: MOMENTS}


def intervals(kind: Kind, least: float, most: float, width: Fraction, zone: str) -> tuple[Array, list[str]]:
    """Return intervals over a range: the bounds within, ascending, and a label for each.

    A value on a bound belongs to the interval above it.
    """
    first, last = _place(least, width), _place(most, width)
    edges = [(first + place) * width for place in range(last - first + 2)]
    is_number = kind is Kind.NUMBER
    inner = np.array([float(edge) if is_number else math.ceil(edge) for edge in edges[1:-1]])
    write = formatter(kind, zone)
    ends = [write(float(edge) if is_number else math.ceil(edge)) for edge in edges]
    return inner, [f"{low} to below {high}" for low, high in itertools.pairwise(ends)]


def _place(value: float, width: Fraction) -> int:
    """Return the place of the interval of a value, which is meant as it is written: 0.3 is three tenths."""
    return math.floor(Fraction(repr(value)) / width)


def heaps(ordered: Array, starts: Sequence[int] | Array) -> list[tuple[float | int, int] | None]:
    """Return for each interval of sorted values the (value, rows) that heaps up in it, or ``None``.

    ``starts`` are the places of the intervals' first values, ascending. A heap is one value among several that has a
    fifth of its interval's rows or more, and several times what the others have each: bars as wide do not show it.
    """
    found: list[tuple[float | int, int] | None] = [None] * len(starts)
    if not len(ordered):
        return found
    runs = run_starts(ordered)
    counts = np.diff(np.append(runs, len(ordered)))
    for place, (start, end) in enumerate(itertools.pairwise([*starts, len(ordered)])):
        inside = slice(*np.searchsorted(runs, (start, end)).tolist())
        values = inside.stop - inside.start
        if values < 2:
            continue
        best = inside.start + int(np.argmax(counts[inside]))
        times, others = int(counts[best]), end - start - int(counts[best])
        is_many = times >= _LEAST_HEAP and times * _HEAP_SHARE >= end - start
        if is_many and times * (values - 1) >= _HEAP_TIMES * others:
            found[place] = ordered[runs[best]].item(), times
    return found
