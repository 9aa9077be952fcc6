"""Constants as vectors."""

from __future__ import annotations

import math
from decimal import Decimal

import numpy as np

from yardcut.core.language.meaning import bound as b
from yardcut.core.table.vectors import NumericVector, PlainVector, Vector
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind


def _double(value: int | Decimal) -> float:
    """Return the nearest 64-bit float (IEEE 754); missing for a number beyond all of them."""
    try:
        found = float(value)
    except OverflowError:
        return math.nan
    return found if math.isfinite(found) else math.nan


def constant_vector(constant: b.Constant, rows: int) -> Vector:
    """Return a constant for some rows; a number beyond all 64-bit floats is missing."""
    value = constant.value
    if isinstance(value, str):
        one = np.frombuffer(value.encode() + b"\n", dtype=np.uint8)
        return PlainVector(np.arange(rows + 1, dtype=np.int64) * len(one), np.tile(one, rows))
    if isinstance(value, int) and not -(2**63) <= value < 2**63:
        return NumericVector(Kind.NUMBER, np.full(rows, _double(value)))
    number = _double(value) if isinstance(value, Decimal) else value
    return NumericVector(constant.kind, np.full(rows, number, dtype=STORAGE_DTYPE[constant.kind]))
