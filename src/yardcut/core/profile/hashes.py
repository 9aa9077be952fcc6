"""Hashes of values, the same on every processor: to count distinct values without sorting texts, and to sample rows."""

from __future__ import annotations

import hashlib
import itertools

import numpy as np

from yardcut.core.expressions.testing.text_tests import prefixes
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, PlainVector, gather_plain

_MULTIPLIER = np.uint64(0x9E3779B97F4A7C15)
_SHORT_BYTES = 64


def text_hashes(vector: PlainVector) -> Array:
    """Return a 64-bit hash of every text (uint64): eight bytes at a time, long texts by BLAKE2b (RFC 7693)."""
    sizes = vector.lengths()
    value = sizes.astype(np.uint64) * _MULTIPLIER
    long = np.flatnonzero(sizes > _SHORT_BYTES)
    reach = min(int(sizes.max(initial=0)), _SHORT_BYTES)
    for skip in range(0, reach, 8):
        value = (value ^ prefixes(vector, skip)) * _MULTIPLIER
        value ^= value >> np.uint64(29)
    if len(long):
        texts = gather_plain(vector, long)
        window, ends = texts.window(), texts.offsets.tolist()
        value[long] = [
            int.from_bytes(hashlib.blake2b(window[start : end - 1], digest_size=8).digest(), "little")
            for start, end in itertools.pairwise(ends)
        ]
    return value


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
