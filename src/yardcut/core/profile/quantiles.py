"""Quantiles of sorted values: one definition for every place that speaks of a quarter, a middle or a quantile."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction

from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import Kind


def quantile(ordered: Array, share: Fraction, kind: Kind) -> int | float:
    """Return a quantile of sorted values without missing ones (at least one), by linear interpolation.

    It is the seventh definition of Hyndman and Fan, "Sample Quantiles in Statistical Packages", The American
    Statistician 50 (1996). Numbers are interpolated as they are written, in decimals, and rounded once: between 15 and
    15.1 a quarter of the way lies 15.025. Days and times have none between them: the lower neighbour is taken.

    >>> import numpy as np
    >>> quantile(np.array([15.0, 15.1]), Fraction(1, 4), Kind.NUMBER)
    15.025
    """
    place = (len(ordered) - 1) * share
    lower = place.numerator // place.denominator
    part = place - lower
    low = ordered[lower].item()
    if not part or not kind.is_numeric:
        return low  # type: ignore[no-any-return]
    one, other = Decimal(repr(low)), Decimal(repr(ordered[lower + 1].item()))
    between = Fraction(one) + (Fraction(other) - Fraction(one)) * part
    found = float(between)
    return int(found) if kind is Kind.INTEGER and found.is_integer() else found
