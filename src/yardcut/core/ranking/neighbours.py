"""Rows beside one another in an order: which of them have the same values."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, NumericVector, Vector


def same_as_before(vector: Vector) -> Array:
    """Return for each row but the first whether it has the value of the row before it, or both have none."""
    if isinstance(vector, CodedVector):
        same: Array = vector.codes[1:] == vector.codes[:-1]
        return same
    gone = vector.missing_mask()
    if isinstance(vector, NumericVector):
        same = vector.values[1:] == vector.values[:-1]
    else:
        texts = vector.texts()
        same = np.fromiter((a == c for a, c in zip(texts[1:], texts[:-1], strict=True)), np.bool_, len(texts) - 1)
    if gone is None:
        return same
    both: Array = gone[1:] & gone[:-1]
    neither = ~gone[1:] & ~gone[:-1]
    return both | (neither & same)
