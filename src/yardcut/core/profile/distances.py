"""How far apart a column's values lie over two sets of rows, from its summary in each."""

from __future__ import annotations

import numpy as np

from yardcut.core.profile.summary import Summary
from yardcut.core.table.array_file import Array


def distance(one: Summary, other: Summary) -> float:
    """Return how far the values of a column lie apart over two sets of rows: 0 alike, 1 nothing in common.

    It is the largest of: the difference of the shares without a value; for values in an order the largest difference
    of their distribution functions (Kolmogorov and Smirnov's), at the levels both summaries hold; for others half the
    sum of the differences of the shares of the commonest (the total variation), what is less common taken as one.
    Columns of two kinds, of which one is a text, have nothing in common. Without rows on a side it is 0.
    """
    if not one.rows or not other.rows:
        return 0.0
    missing = abs(one.missing / one.rows - other.missing / other.rows)
    if not one.present or not other.present:
        return missing
    if one.levels and other.levels:
        return max(missing, _of_levels(np.array(one.levels), np.array(other.levels)))
    if one.levels or other.levels:
        return 1.0
    return max(missing, _of_shares(one, other))


def _of_levels(one: Array, other: Array) -> float:
    """Compare two distribution functions, each known by values at even steps of its own."""
    places = np.concatenate((one, other))
    here, there = (np.searchsorted(each, places, side="right") / len(each) for each in (one, other))
    return float(np.abs(here - there).max())


def _of_shares(one: Summary, other: Summary) -> float:
    here, there = (dict(each.commonest) for each in (one, other))
    apart = abs(sum(here.values()) / one.present - sum(there.values()) / other.present)
    for text in here.keys() | there.keys():
        apart += abs(here.get(text, 0) / one.present - there.get(text, 0) / other.present)
    return min(1.0, apart / 2)
