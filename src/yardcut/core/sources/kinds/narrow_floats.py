"""Numbers of 32 and 16 bits as the doubles people mean by them: 0.1 is 0.1, not 0.10000000149011612."""

from __future__ import annotations

import numpy as np

from yardcut.core.table.array_file import Array

_MOST_DIGITS = 9
"""So many significant digits tell any two numbers of 32 bits apart (IEEE 754, 5.12.2)."""
_LEAST_EXPONENT = -60
_POWERS = np.array([float(f"1e{exponent}") for exponent in range(_LEAST_EXPONENT, 1 - _LEAST_EXPONENT)])


def as_doubles(values: Array) -> Array:
    """Return numbers as doubles (float64); narrower ones as the double with the fewest digits that narrows to them."""
    wide = np.asarray(values, dtype=np.float64)
    if values.dtype.kind != "f" or values.dtype.itemsize >= 8:
        return wide
    found = wide.copy()
    open_rows = np.flatnonzero(np.isfinite(wide) & (wide != np.rint(wide)))
    # the power of ten of the first digit, or one less; exact arithmetic alone, so the same on every processor
    exponents = np.floor((np.frexp(wide[open_rows])[1] - 1) * 0.30102999566398120).astype(np.int64)
    for digits in range(1, _MOST_DIGITS + 2):
        places = digits - 1 - exponents
        scale = _POWERS[np.clip(places, _LEAST_EXPONENT, -_LEAST_EXPONENT) - _LEAST_EXPONENT]
        rounded = np.rint(wide[open_rows] * scale) / scale
        fits = rounded.astype(values.dtype) == values[open_rows]
        found[open_rows[fits]] = rounded[fits]
        open_rows, exponents = open_rows[~fits], exponents[~fits]
        if not len(open_rows):
            break
    return found
