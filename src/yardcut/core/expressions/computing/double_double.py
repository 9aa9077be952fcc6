"""Numbers as unevaluated sums of two doubles: twice the digits, by ``+ - *`` alone, the same on every processor.

The methods are those of Dekker, "A floating-point technique for extending the available precision", Numerische
Mathematik 18 (1971), and Knuth, The Art of Computer Programming 2, 4.2.2.
"""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array

Pair = tuple[Array, Array]
"""A high and a low part (float64), the low one less than half a unit of the high one's last place."""

_SPLIT = 134217729.0  # 2^27 + 1


def two_sum(one: Array, other: Array) -> Pair:
    """Return a sum and its rounding error, exactly."""
    total = one + other
    part = total - one
    return total, (one - (total - part)) + (other - part)


def quick_sum(large: Array, small: Array) -> Pair:
    """Return a sum and its rounding error, exactly, where the first is not the smaller one."""
    total = large + small
    return total, small - (total - large)


def two_product(one: Array, other: Array) -> Pair:
    """Return a product and its rounding error, exactly, unless it overflows."""
    product = one * other
    scaled, scaled_other = one * _SPLIT, other * _SPLIT
    high = scaled - (scaled - one)
    high_other = scaled_other - (scaled_other - other)
    low, low_other = one - high, other - high_other
    return product, ((high * high_other - product) + high * low_other + low * high_other) + low * low_other


def add(one: Pair, other: Pair) -> Pair:
    """Return a sum."""
    total, error = two_sum(one[0], other[0])
    return quick_sum(total, error + (one[1] + other[1]))


def multiply(one: Pair, other: Pair) -> Pair:
    """Return a product."""
    product, error = two_product(one[0], other[0])
    return quick_sum(product, error + (one[0] * other[1] + one[1] * other[0]))


def multiply_constant(one: Array, constant: tuple[float, float]) -> Pair:
    """Return the product of single numbers and one pair."""
    product, error = two_product(one, np.full_like(one, constant[0]))
    return quick_sum(product, error + one * constant[1])


def add_constant(one: Pair, constant: tuple[float, float]) -> Pair:
    """Return the sum of pairs and one pair that is larger in size than any of them."""
    total = constant[0] + one[0]
    return quick_sum(total, ((constant[0] - total) + one[0]) + (one[1] + constant[1]))


def divide_single(one: Array, other: Pair) -> Pair:
    """Return the quotient of single numbers and pairs."""
    first = one / other[0]
    product, error = two_product(first, other[0])
    rest = ((one - product) - error) - first * other[1]
    return quick_sum(first, rest / other[0])
