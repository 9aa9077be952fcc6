"""How many rows each stratum of a draw gives, when there is one total for all of them."""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from yardcut.core.table.array_file import Array

_SCALE_BITS = 29
"""Rows of a table fit 32 bits: a count times two to this power fits 64."""


def equal_shares(counts: Array, total: int) -> Array:
    """Divide a total equally; what does not divide goes to the first strata, and no stratum gives more than it has."""
    whole, rest = divmod(total, max(1, len(counts)))
    shares: Array = np.minimum(counts, whole + (np.arange(len(counts)) < rest))
    return shares


def highest_averages(counts: Array, total: int, least: int = 0) -> Array:
    """Divide a total in proportion to ``counts`` (int64), by highest averages with the divisors 1, 3, 5, …

    That is the method of Sainte-Lague (Webster): see Balinski and Young, Fair Representation (1982). Each row goes to
    the stratum with the largest ``count / (2 * rows + 1)``, to the earlier one of equal ones, and none gives more than
    it has. So it adds up, and a larger total takes nothing back. Every stratum starts with ``least`` rows, or with all
    it has; ``total`` must reach that far.

    Complexity: O(groups * log(rows)), whatever the total.
    """
    given = np.minimum(counts, least)
    total = min(total, int(counts.sum()))

    def at(divided: int) -> Array:
        """Rows of each stratum whose average is at least ``divided / 2^29``, exactly."""
        rows: Array = ((counts << _SCALE_BITS) // divided + 1) // 2
        return np.minimum(counts, np.maximum(given, rows))

    low, high = 0, (int(counts.max(initial=0)) << _SCALE_BITS) + 1
    while high - low > 1:  # above ``high`` the total is not passed, at ``low`` it is
        middle = (low + high) // 2
        if int(at(middle).sum()) <= total:
            high = middle
        else:
            low = middle
    given = at(high)
    return _hand_out(given, counts, total - int(given.sum()))


def _hand_out(given: Array, counts: Array, rest: int) -> Array:
    """Give the rows that are left, whose averages are all but equal: at most one to a stratum, but for huge ones."""
    while rest > 0:
        able = np.flatnonzero(given < counts)
        averages = counts[able] / (2 * given[able] + 1)
        best = able[np.argsort(-averages, kind="stable")]
        if rest < len(best):
            best = _by_exact_average(best, given, counts, rest)
        given[best[:rest]] += 1
        rest -= min(rest, len(best))
    return given


def _by_exact_average(best: Array, given: Array, counts: Array, rest: int) -> Array:
    """Put those strata right whose averages are the same as doubles, though not as fractions, at the edge."""
    averages = counts[best] / (2 * given[best] + 1)
    first = int(np.searchsorted(-averages, -averages[rest - 1], side="left"))
    end = int(np.searchsorted(-averages, -averages[rest - 1], side="right"))
    close = best[first:end]
    divisors = 2 * given[close] + 1
    if (counts[close] * divisors[0] == counts[close[0]] * divisors).all():
        return best
    exact = sorted(close.tolist(), key=lambda each: (-Fraction(int(counts[each]), 2 * int(given[each]) + 1), each))
    return np.concatenate((best[:first], np.array(exact, dtype=best.dtype), best[end:]))
