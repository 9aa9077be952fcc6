"""Functions of numbers."""

from __future__ import annotations

from collections.abc import Callable
from decimal import ROUND_HALF_UP, Decimal, localcontext
from functools import reduce

import numpy as np

from yardcut.core.expressions.computing.arithmetic import as_number, compute, either
from yardcut.core.expressions.computing.logarithms import decimal_logarithm, exponential, natural_logarithm, power
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind


def absolute(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return numbers without their sign; the least integer of 64 bits has no counterpart, and so no value."""
    (vector,) = arguments
    assert isinstance(vector, NumericVector)
    if kind is Kind.NUMBER:
        return NumericVector(kind, np.abs(vector.values))
    wide = vector.values.astype(np.int64)
    unanswered = wide == np.iinfo(np.int64).min
    return NumericVector(kind, np.abs(wide), either(vector.missing, unanswered if unanswered.any() else None))


def modulo(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return the remainder of a division, which has the dividend's sign; none for a division by zero."""
    first, second = arguments
    assert isinstance(first, NumericVector)
    assert isinstance(second, NumericVector)
    return compute("%", first, second, kind)


def _stepped(step: Callable[[Array], Array]) -> Callable[[tuple[Vector, ...], Kind], NumericVector]:
    def work(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
        (vector,) = arguments
        assert isinstance(vector, NumericVector)
        if kind is Kind.INTEGER:
            return vector
        return NumericVector(kind, step(vector.values.astype(np.float64)) + 0.0)  # no -0.0

    return work


ceiling = _stepped(np.ceil)
floor = _stepped(np.floor)


def square_root(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return square roots, correctly rounded (IEEE 754, 5.4.1); a number below zero has none."""
    (vector,) = arguments
    assert isinstance(vector, NumericVector)
    with np.errstate(invalid="ignore"):
        return NumericVector(kind, np.sqrt(as_number(vector)) + 0.0)


def _of_numbers(work: Callable[..., Array]) -> Callable[[tuple[Vector, ...], Kind], NumericVector]:
    def run(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
        vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
        return NumericVector(kind, work(*map(as_number, vectors)))

    return run


logarithm = _of_numbers(natural_logarithm)
decimal_log = _of_numbers(decimal_logarithm)
to_the_power_of_e = _of_numbers(exponential)
raised = _of_numbers(power)


_UNSURE = 1e-6
_MOST_DIGITS = 22
"""Ten to this power is the largest a double holds exactly."""
_ALL_DIGITS = 350
"""No double has a digit further from the point."""


def rounded(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return numbers rounded to some digits behind the point, or before it where negative; halves away from zero.

    A number counts as it is written: 2.675 is a half at two digits, although the double lies a little below.
    """
    vector = arguments[0]
    assert isinstance(vector, NumericVector)
    digits = np.zeros(len(vector), dtype=np.int64)
    gone = None
    if len(arguments) > 1:
        assert isinstance(arguments[1], NumericVector)
        digits, gone = arguments[1].values.astype(np.int64), arguments[1].missing
    if kind is Kind.INTEGER:
        return _rounded_integers(vector, digits, gone)
    values = vector.values.astype(np.float64)
    found = np.array(values)
    digits = np.clip(digits, -_ALL_DIGITS, _ALL_DIGITS)  # beyond, a number has no digit
    for places in np.unique(digits).tolist():
        some = digits == places
        found[some] = _rounded_to(values[some], places)
    if gone is not None:
        found[gone] = np.nan
    return NumericVector(kind, found + 0.0)


def _rounded_to(values: Array, places: int) -> Array:
    if abs(places) > _MOST_DIGITS:
        return _rounded_exactly(values, places, np.isfinite(values))
    power = 10.0 ** abs(places)
    with np.errstate(all="ignore"):
        scaled = np.abs(values) * power if places >= 0 else np.abs(values) / power
        whole = np.floor(scaled + 0.5)
        found = np.copysign(whole / power if places >= 0 else whole * power, values)
        part = scaled - np.floor(scaled)
        # near a half the product, and the double beside the number as written, may be on its wrong side
        unsure = (np.abs(part - 0.5) < np.maximum(_UNSURE, scaled * 2.0**-50)) | ~np.isfinite(scaled)
    return _rounded_exactly(values, places, unsure & np.isfinite(values), found)


def _rounded_exactly(values: Array, places: int, some: Array, others: Array | None = None) -> Array:
    """Round some numbers as the decimals they are written as; ``others`` are the rest, rounded already."""
    found = np.array(values if others is None else others)
    for row in np.flatnonzero(some).tolist():
        found[row] = float(_exactly(Decimal(repr(float(values[row]))), places))
    return found


def _exactly(value: Decimal, places: int) -> Decimal:
    with localcontext() as context:
        context.prec = 800  # more digits than any double has
        return value.quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)


def _rounded_integers(vector: NumericVector, digits: Array, gone: Array | None) -> NumericVector:
    values = vector.values.astype(np.int64)
    found = np.array(values)
    unanswered = np.zeros(len(values), dtype=np.bool_)
    for row in np.flatnonzero(digits < 0).tolist():
        exact = int(_exactly(Decimal(int(values[row])), max(int(digits[row]), -_ALL_DIGITS)))
        unanswered[row] = not -(2**63) <= exact < 2**63
        found[row] = 0 if unanswered[row] else exact
    missing = either(either(vector.missing, gone), unanswered if unanswered.any() else None)
    return NumericVector(Kind.INTEGER, found, missing)


def greatest(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return the largest of some values; none where one of them is missing."""
    return _extreme(arguments, kind, np.maximum)


def least(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return the smallest of some values; none where one of them is missing."""
    return _extreme(arguments, kind, np.minimum)


def _extreme(arguments: tuple[Vector, ...], kind: Kind, choose: Callable[[Array, Array], Array]) -> NumericVector:
    vectors = [vector for vector in arguments if isinstance(vector, NumericVector)]
    assert len(vectors) == len(arguments)
    if kind is Kind.NUMBER:
        return NumericVector(kind, reduce(choose, map(as_number, vectors)))
    missing = reduce(either, (vector.missing for vector in vectors))
    return NumericVector(kind, reduce(choose, (vector.values.astype(np.int64) for vector in vectors)), missing)
