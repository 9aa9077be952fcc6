"""Numbers, days and moments looked for among many constants at once."""

from __future__ import annotations

from decimal import Decimal
from functools import lru_cache
from typing import Any

import numpy as np

from yardcut.core.expressions.testing.comparing_numbers import nearest_double
from yardcut.core.language.meaning.bound import Constant
from yardcut.core.language.meaning.bound_known import Constants
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS

FEW_CONSTANTS = 16
"""So many are compared with one by one sooner."""
_MOST_STEPS = 1 << 22
_FACTOR = np.uint64(0x9E3779B97F4A7C15)


def as_moment(constant: Constant) -> int:
    """Return a day or a moment as microseconds: a day beside a moment is its midnight."""
    assert isinstance(constant.value, int)
    return constant.value * DAY_MICROSECONDS if constant.kind is Kind.DATE else constant.value


def one_of_numbers(vector: NumericVector, constants: Constants) -> Array:
    """Tell which values equal one of many constants (bool); rows without a value have an arbitrary answer."""
    return _wanted(constants, vector.kind, vector.values.dtype).hold(vector.values)


@dataclass(frozen=True, slots=True, eq=False)
class _Wanted:
    """Values of one type, ascending: as a table where they are close together, else told apart by multiplicative
    hashing (Knuth, The Art of Computer Programming 3, 6.4) from most that are none of them.
    """

    values: Array
    table: Array
    shift: int

    def hold(self, values: Array) -> Array:
        if not len(self.values):
            return np.zeros(len(values), np.bool_)
        if not self.shift:
            least, most = self.values[0], self.values[-1]
            inside: Array = (values >= least) & (values <= most)
            inside &= self.table[np.where(inside, values, least).astype(np.int64) - int(least)]
            return inside
        found: Array = self.table[(_words(values) * _FACTOR >> np.uint64(self.shift)).view(np.int64)]
        near = np.flatnonzero(found)
        places = np.searchsorted(self.values, values[near])
        places[places == len(self.values)] = 0
        found[near] = self.values[places] == values[near]
        return found


@lru_cache(maxsize=16)
def _wanted(constants: Constants, kind: Kind, dtype: np.dtype[Any]) -> _Wanted:
    if dtype.kind == "f":
        values = np.unique(np.array(_doubles(constants), dtype) + 0.0)
    else:
        bounds = np.iinfo(dtype)
        whole = (value for value in _integers(constants, kind) if bounds.min <= value <= bounds.max)
        values = np.unique(np.array(list(whole), dtype))
        if len(values) and int(values[-1]) - int(values[0]) < _MOST_STEPS:
            table = np.zeros(int(values[-1]) - int(values[0]) + 1, np.bool_)
            table[values.astype(np.int64) - int(values[0])] = True
            return _Wanted(values, table, 0)
    shift = 64 - max(1, len(values)).bit_length() - 3
    table = np.zeros(1 << (64 - shift), np.bool_)
    table[(_words(values) * _FACTOR >> np.uint64(shift)).view(np.int64)] = True
    return _Wanted(values, table, shift)


def _words(values: Array) -> Array:
    """Return values as words (uint64), equal ones as equal words."""
    if values.dtype.kind == "f":
        return (values + 0.0).astype(np.float64, copy=False).view(np.uint64)
    return values.astype(np.int64).view(np.uint64)


def _integers(constants: Constants, kind: Kind) -> list[int]:
    """Return the integers that equal one of the constants, in the unit of a kind."""
    found = []
    for constant in constants:
        value = constant.value
        if isinstance(value, Decimal):
            if value == int(value):
                found.append(int(value))
        elif kind.is_temporal and kind is not constant.kind:
            whole, rest = divmod(as_moment(constant), DAY_MICROSECONDS if kind is Kind.DATE else 1)
            if not rest:
                found.append(whole)
        else:
            found.append(int(value))
    return found


def _doubles(constants: Constants) -> list[float]:
    """Return the doubles that equal one of the constants: a decimal is the nearest one, an integer itself or none."""
    found = []
    for constant in constants:
        assert isinstance(constant.value, int | Decimal)
        value = nearest_double(constant.value)
        if not isinstance(constant.value, int) or value == constant.value:
            found.append(value)
    return found
