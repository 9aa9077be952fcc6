"""CAST: values of one kind as another (ISO/IEC 9075-2, 6.13). What does not fit has no value."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable
from decimal import Decimal

import numpy as np

from yardcut.core.expressions.computing.arithmetic import either
from yardcut.core.expressions.computing.temporal_functions import clock_of
from yardcut.core.table.vectors import NumericVector, PlainVector, Vector, join_texts
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS, parse_date, parse_instant, parse_time, parse_timestamp

_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,4})?", re.ASCII)
_MOST_DIGITS = 400


def cast(arguments: tuple[Vector, ...], kind: Kind) -> Vector:
    """Return values as another kind; numbers become integers without their fraction. Texts are parsed elsewhere."""
    (vector,) = arguments
    if vector.kind is kind:
        return vector
    assert isinstance(vector, NumericVector)
    if kind is Kind.TEXT:
        texts = vector.texts()
        offsets, data = join_texts([(text or "").encode() for text in texts])
        return PlainVector(offsets, data, vector.missing_mask())
    if kind is Kind.NUMBER:
        values = vector.values.astype(np.float64)
        if vector.missing is not None:
            values[vector.missing] = np.nan
        return NumericVector(kind, values)
    if kind is Kind.INTEGER:
        return _integers(vector)
    days, clock = clock_of(vector)
    found = {Kind.DATE: days, Kind.TIME: clock}.get(kind)
    return NumericVector(kind, days * DAY_MICROSECONDS + clock if found is None else found, vector.missing)


def _integers(vector: NumericVector) -> NumericVector:
    if vector.values.dtype.kind != "f":
        return NumericVector(Kind.INTEGER, vector.values.astype(np.int64), vector.missing)
    whole = np.trunc(vector.values.astype(np.float64))
    fits = (whole >= -(2.0**63)) & (whole < 2.0**63)
    missing = None if fits.all() else ~fits
    return NumericVector(Kind.INTEGER, np.where(fits, whole, 0).astype(np.int64), either(vector.missing, missing))


def parser(kind: Kind) -> Callable[[str], int | float | None]:
    """Return the function that reads one text as a value of a kind, or returns ``None``; blanks around do not count."""
    read = _PARSERS[kind]

    def parse(text: str) -> int | float | None:
        with contextlib.suppress(ValueError):
            return read(text.strip())
        return None

    return parse


def exact_parser(kind: Kind) -> Callable[[str], int | float | None]:
    """Return the function that reads a text as :func:`parser` does, but a number with a fraction as no integer."""
    read = parser(kind)
    if kind is not Kind.INTEGER:
        return read

    def parse(text: str) -> int | float | None:
        found = read(text)
        return found if found is None or Decimal(text.strip()) == found else None

    return parse


def _number(text: str) -> float | None:
    if not _NUMBER.fullmatch(text) or len(text) > _MOST_DIGITS:
        return None
    found = float(text)
    return found if np.isfinite(found) else None


def _integer(text: str) -> int | None:
    if not _NUMBER.fullmatch(text) or len(text) > _MOST_DIGITS:
        return None
    exact = Decimal(text)
    if exact.adjusted() > 18:
        return None
    found = int(exact)
    return found if -(2**63) <= found < 2**63 else None


def _boolean(text: str) -> int | None:
    return {"true": 1, "false": 0}.get(text.lower())


def _timestamp(text: str) -> int | None:
    days = parse_date(text)
    return parse_timestamp(text) if days is None else days * DAY_MICROSECONDS


def _instant(text: str) -> int | None:
    found = parse_instant(text)
    return None if found is None else found[0]


_PARSERS: dict[Kind, Callable[[str], int | float | None]] = {
    Kind.INTEGER: _integer, Kind.NUMBER: _number, Kind.BOOLEAN: _boolean, Kind.DATE: parse_date,
    Kind.TIMESTAMP: _timestamp, Kind.INSTANT: _instant, Kind.TIME: parse_time,
}  # fmt: skip
