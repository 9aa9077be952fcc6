"""Hashes of numbers, the same on every processor: to count distinct values, and to sample rows."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector

_MULTIPLIER = np.uint64(0x9E3779B97F4A7C15)


def number_hashes(vector: NumericVector) -> Array:
    """Return a 64-bit hash of every value (uint64); equal values have equal hashes, -0.0 is 0.0."""
    if vector.values.dtype.kind == "f":
        return mixed((vector.values + 0.0).view(np.uint64))
    return mixed(vector.values.astype(np.int64).view(np.uint64))


def mixed(words: Array) -> Array:
    """Return words (uint64) spread evenly over 64 bits: the last steps of SplitMix64 (Steele et al., OOPSLA 2014)."""
    words = words + _MULTIPLIER
    words ^= words >> np.uint64(30)
    words *= np.uint64(0xBF58476D1CE4E5B9)
    words ^= words >> np.uint64(27)
    words *= np.uint64(0x94D049BB133111EB)
    words ^= words >> np.uint64(31)
    return words
