"""Numbers, days and truths found among the different values of a column."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS

_SPARSE = 4
_ALWAYS_DENSE = 1 << 20
_TOO_LARGE = 2.0**63


def common_kind(one: Kind, other: Kind) -> Kind:
    """Return the kind two comparable kinds of keys are looked for as.

    A number that is whole is looked for as an integer beside integers: as numbers, large integers that differ would be
    the same.
    """
    if Kind.INTEGER in (one, other):
        return Kind.INTEGER
    return Kind.TIMESTAMP if Kind.TIMESTAMP in (one, other) else one


def as_keys(vector: NumericVector, kind: Kind) -> tuple[Array, Array | None]:
    """Return values as they are compared with those of a kind, and where there is one (bool; ``None``: everywhere)."""
    gone = vector.missing_mask()
    present = None if gone is None else ~gone
    values = vector.values
    if kind is Kind.INTEGER and vector.kind is Kind.NUMBER:
        numbers = np.asarray(values, np.float64)
        with np.errstate(invalid="ignore"):
            whole = (np.floor(numbers) == numbers) & (numbers >= -_TOO_LARGE) & (numbers < _TOO_LARGE)
        return np.where(whole, numbers, 0).astype(np.int64), whole if present is None else whole & present
    if kind is Kind.NUMBER:
        return np.asarray(values, np.float64) + 0.0, present  # a zero with a sign is zero
    if kind is Kind.TIMESTAMP and vector.kind is Kind.DATE:
        return np.asarray(values, np.int64) * DAY_MICROSECONDS, present
    return np.asarray(values, np.int64), present


class NumberKeys:
    """The different values of a column, numbered from 0 in ascending order. ``arrays`` are those ``values``, the
    ``table`` of their numbers from the least to the greatest where most of them are there (else empty), and how many
    keys are ``broken``: no integer is equal to these, which are numbered behind the others and never found.
    """

    def __init__(self, kind: Kind, arrays: dict[str, Array]) -> None:
        self._kind = kind
        self.arrays = arrays
        self.values, self._table = arrays["values"], arrays["table"]
        self._broken = int(arrays["broken"][0])

    @classmethod
    def numbered(cls, vector: NumericVector, kind: Kind) -> tuple[NumberKeys, Array]:
        """Return the different values of a column, and the number of each row's (int64; -1 where it is missing)."""
        values, present = as_keys(vector, kind)
        rows = np.arange(len(values)) if present is None else np.flatnonzero(present)
        different, numbers = np.unique(values[rows], return_inverse=True)
        codes = np.full(len(values), -1, np.int64)
        codes[rows] = numbers
        broken = 0
        if kind is Kind.INTEGER and vector.kind is Kind.NUMBER and present is not None:
            gone = vector.missing_mask()
            rows = np.flatnonzero(~present if gone is None else ~present & ~gone)
            fractions, numbers = np.unique(vector.values[rows], return_inverse=True)
            codes[rows] = len(different) + numbers
            broken = len(fractions)
        arrays = {"values": different, "table": _direct(different), "broken": np.array([broken])}
        return cls(kind, arrays), codes

    def __len__(self) -> int:
        return len(self.values) + self._broken

    def find(self, vector: NumericVector) -> Array:
        """Return the number of each value (int64); -1 where it is none of them, or missing."""
        values, present = as_keys(vector, self._kind)
        found = np.full(len(values), -1, np.int64)
        if not len(self.values):
            return found
        if len(self._table):
            first, last = self.values[0], self.values[-1]
            here = (values >= first) & (values <= last)
            found[here] = self._table[values[here] - first]
        else:
            places = np.searchsorted(self.values, values)
            np.minimum(places, len(self.values) - 1, out=places)
            found = np.where(self.values[places] == values, places, -1)
        if present is not None:
            found[~present] = -1
        return found

    def up_to(self, vector: NumericVector) -> Array:
        """Return how many of the values are not above each of some others (int64); 0 where there is none."""
        values, present = as_keys(vector, self._kind)
        found = np.searchsorted(self.values, values, side="right")
        return found if present is None else np.where(present, found, 0)


def _direct(values: Array) -> Array:
    """Return the number of each value from the least to the greatest (int32), where most of them are there."""
    nothing = np.zeros(0, np.int32)
    if not len(values) or values.dtype.kind == "f":
        return nothing
    span = int(values[-1]) - int(values[0]) + 1
    if span > _SPARSE * len(values) + _ALWAYS_DENSE:
        return nothing
    table = np.full(span, -1, np.int32)
    table[values - values[0]] = np.arange(len(values), dtype=np.int32)
    return table
