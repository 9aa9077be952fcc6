"""Functions of days, moments and times of day: their parts, and what lies some months or seconds from them.

Days count from 1970-01-01 in the proleptic Gregorian calendar (ISO 8601), years from 1 to 9999; weeks are those of
ISO 8601, 5.7.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yardcut.core.expressions.computing.arithmetic import either
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS, local_microseconds

FIRST_DAY, LAST_DAY = -719162, 2932896
"""0001-01-01 and 9999-12-31."""
_FIRST_MONTH, _LAST_MONTH = -1969 * 12, 8030 * 12 - 1
_MONTH, _DAY = "datetime64[M]", "datetime64[D]"

DAY_FIELDS = ("YEAR", "QUARTER", "MONTH", "WEEK", "DAY", "WEEKDAY")
CLOCK_FIELDS = ("HOUR", "MINUTE", "SECOND")


def clock_of(vector: NumericVector) -> tuple[Array, Array]:
    """Return the days, and the microseconds since midnight, that values of a temporal kind show (int64 both).

    An instant shows the clock of its own zone. A time of day is in day 0.
    """
    values = vector.values.astype(np.int64)
    if vector.kind is Kind.DATE:
        return values, np.zeros_like(values)
    if vector.kind is Kind.INSTANT:
        values = local_microseconds(values, vector.zone)
    days = values // DAY_MICROSECONDS
    return days, values - days * DAY_MICROSECONDS


def extracting(field: str) -> Callable[[tuple[Vector, ...], Kind], NumericVector]:
    """Return the kernel of EXTRACT for one field."""

    def work(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
        (vector,) = arguments
        assert isinstance(vector, NumericVector)
        days, clock = clock_of(vector)
        if field == "SECOND":
            seconds = (clock % 60_000_000) / 1e6
            if vector.missing is not None:
                seconds[vector.missing] = np.nan
            return NumericVector(kind, seconds)
        return NumericVector(kind, _part(field, days, clock), vector.missing)

    return work


def _part(field: str, days: Array, clock: Array) -> Array:
    found: Array
    match field:
        case "HOUR":
            found = clock // 3_600_000_000
        case "MINUTE":
            found = clock // 60_000_000 % 60
        case "WEEKDAY":
            found = (days + 3) % 7 + 1
        case "WEEK":
            thursday = days - (days + 3) % 7 + 3  # a week belongs to the year of its Thursday
            first = thursday.view(_DAY).astype("datetime64[Y]").astype(_DAY).view(np.int64)
            found = (thursday - first) // 7 + 1
        case "DAY":
            found = days - _month_of(days).view(_MONTH).astype(_DAY).view(np.int64) + 1
        case "MONTH":
            found = _month_of(days) % 12 + 1
        case "QUARTER":
            found = _month_of(days) % 12 // 3 + 1
        case _:
            found = _month_of(days) // 12 + 1970
    return found


def _month_of(days: Array) -> Array:
    """Return months since 1970-01 (int64)."""
    found: Array = days.view(_DAY).astype(_MONTH).view(np.int64)
    return found


def _first_of(months: Array) -> Array:
    """Return the first day of months since 1970-01, as days since 1970-01-01 (int64)."""
    found: Array = months.view(_MONTH).astype(_DAY).view(np.int64)
    return found


def date_from(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return the day of a year, a month and a day; none where the calendar has no such day."""
    years, months, days = (vector.values.astype(np.int64) for vector in arguments if isinstance(vector, NumericVector))
    unanswered = (years < 1) | (years > 9999) | (months < 1) | (months > 12) | (days < 1)
    month = np.where(unanswered, 0, (years - 1970) * 12 + months - 1)
    first = _first_of(month)
    unanswered |= days > _first_of(month + 1) - first
    missing = None
    for vector in arguments:
        missing = either(missing, vector.missing_mask())
    found = np.where(unanswered, 0, first + days - 1)
    return NumericVector(kind, found, either(missing, unanswered if unanswered.any() else None))


def add_months(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return days or moments some months on; a day the month lacks becomes its last. None beyond years 1 to 9999."""
    vector, count = arguments
    assert isinstance(vector, NumericVector)
    assert isinstance(count, NumericVector)
    values = vector.values.astype(np.int64)
    days, clock = (values, None) if vector.kind is Kind.DATE else np.divmod(values, DAY_MICROSECONDS)
    month = _month_of(days)
    steps = np.clip(count.values, -200_000, 200_000).astype(np.int64)
    later = month + steps
    unanswered = (later < _FIRST_MONTH) | (later > _LAST_MONTH)
    later = np.where(unanswered, 0, later)
    first = _first_of(later)
    found = first + np.minimum(days - _first_of(month), _first_of(later + 1) - first - 1)
    if clock is not None:
        found = found * DAY_MICROSECONDS + clock
    return NumericVector(kind, found, either(vector.missing, unanswered if unanswered.any() else None))


def add_units(arguments: tuple[Vector, ...], kind: Kind) -> NumericVector:
    """Return days some days on, moments or times of day some microseconds on (times go round the clock)."""
    vector, count = arguments
    assert isinstance(vector, NumericVector)
    assert isinstance(count, NumericVector)
    values, steps = vector.values.astype(np.int64), count.values.astype(np.int64)
    if kind is Kind.TIME:
        return NumericVector(kind, (values + steps) % DAY_MICROSECONDS, vector.missing)
    unit = 1 if kind is Kind.DATE else DAY_MICROSECONDS
    # steps are bounded where they are bound, so that this cannot overflow
    found = values + steps
    unanswered = (found < FIRST_DAY * unit) | (found >= (LAST_DAY + 1) * unit)
    found = np.where(unanswered, 0, found)
    return NumericVector(kind, found, either(vector.missing, unanswered if unanswered.any() else None))
