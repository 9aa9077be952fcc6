"""Functions of numbers."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.arithmetic import either
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
