"""The rank by chance of a row. It is part of the language: the same seed ranks the same rows alike for ever.

The rank of row ``r`` (from 0, data rows only) of file ``f`` (its place in the stack, from 0) under a seed ``s`` is
output number ``r`` of the generator SplitMix64 (Steele, Lea and Flood, "Fast splittable pseudorandom number
generators", OOPSLA 2014), started at ``mix(mix(s) ^ f)``. All arithmetic is modulo 2^64.
"""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from yardcut.core.table.array_file import Array

_WORD = (1 << 64) - 1
_GAMMA = 0x9E3779B97F4A7C15
_FIRST = 0xBF58476D1CE4E5B9
_SECOND = 0x94D049BB133111EB
SEED_LIMIT = 1 << 63


def mix(value: int) -> int:
    """Return SplitMix64's first output for the state ``value``."""
    value = (value + _GAMMA) & _WORD
    value = ((value ^ (value >> 30)) * _FIRST) & _WORD
    value = ((value ^ (value >> 27)) * _SECOND) & _WORD
    return value ^ (value >> 31)


def row_rank(seed: int, file_number: int, row: int) -> int:
    """Return the rank of one row: the plain definition that :func:`row_ranks` must agree with."""
    return mix((mix(mix(seed) ^ file_number) + row * _GAMMA) & _WORD)


def row_ranks(seed: int, file_number: int, rows: Array) -> Array:
    """Return the ranks (uint64) of rows given by number within their file (any integer dtype)."""
    start = np.uint64((mix(mix(seed) ^ file_number) + _GAMMA) & _WORD)
    value = rows.astype(np.uint64)
    value *= np.uint64(_GAMMA)
    value += start
    scratch = value >> np.uint64(30)
    value ^= scratch
    value *= np.uint64(_FIRST)
    np.right_shift(value, np.uint64(27), out=scratch)
    value ^= scratch
    value *= np.uint64(_SECOND)
    np.right_shift(value, np.uint64(31), out=scratch)
    value ^= scratch
    return value


def chance_limit(chance: Fraction) -> int:
    """Return the rank below which a row is drawn with the given chance: ``floor(chance * 2^64)``."""
    return int(chance * (1 << 64))
