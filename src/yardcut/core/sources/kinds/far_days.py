"""Days and instants that a file's type can hold and no calendar here: before the year 1, or after 9999.

They are values that do not fit their column's kind: set aside, counted, listed as they are written (ISO 8601:2019,
4.3.3, which asks for an agreement on years of more than four digits).
"""

from __future__ import annotations

import datetime
from typing import Any

import numpy as np

from yardcut.core.sources.store.builders import numeric_parts
from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import EPOCH

_PER_SECOND = {"s": 1, "ms": 1_000, "us": 1_000_000, "ns": 1_000_000_000}
_DAY_SECONDS = 86_400
_FIRST_DAY, _LAST_DAY = datetime.date.min.toordinal() - EPOCH, datetime.date.max.toordinal() - EPOCH

Unfit = list[tuple[int, str]]


def days_and_instants(column: Any) -> tuple[Array, Array | None, Unfit]:
    """Return an Arrow array of dates as days, of instants and times of day as microseconds (finer ones are
    cut off), all int64.

    With them which rows are there (``None``: all), and those out of range with the text of each.
    """
    import pyarrow as pa

    values, valid = numeric_parts(column)
    if pa.types.is_date32(column.type):
        return _fitting(values, valid, _FIRST_DAY, _LAST_DAY, "D", 1, 1)
    if pa.types.is_date64(column.type):
        per_day = _DAY_SECONDS * 1_000
        return _fitting(values, valid, _FIRST_DAY * per_day, (_LAST_DAY + 1) * per_day - 1, "ms", 1, per_day)
    unit = column.type.unit
    if pa.types.is_time(column.type):
        return _fitting(values, valid, 0, _DAY_SECONDS * _PER_SECOND[unit] - 1, unit, *_ratio(_PER_SECOND[unit]))
    per_second = _PER_SECOND[unit]
    inside = 0 if column.type.tz is None else 1  # a zone may move an instant by less than a day
    first = (_FIRST_DAY + inside) * _DAY_SECONDS * per_second
    last = (_LAST_DAY + 1 - inside) * _DAY_SECONDS * per_second - 1
    return _fitting(values, valid, first, last, unit, *_ratio(per_second))


def _ratio(per_second: int) -> tuple[int, int]:
    """Return what a unit is to be multiplied with, and divided by, to give microseconds."""
    return max(1, 1_000_000 // per_second), max(1, per_second // 1_000_000)


def _fitting(
    values: Array, valid: Array | None, first: int, last: int, unit: str, times: int, over: int
) -> tuple[Array, Array | None, Unfit]:
    """Return the values in another unit, and apart from them those that lie outside of a range."""
    least, most = max(first, -(2**63)), min(last, 2**63 - 1)
    outside = (values < least) | (values > most)
    if valid is not None:
        outside &= valid
    unfit: Unfit = []
    if outside.any():
        rows = np.flatnonzero(outside)
        written = np.datetime_as_string(values[rows].astype(np.int64).view(f"datetime64[{unit}]"))
        unfit = [(int(row), text.replace("T", " ")) for row, text in zip(rows, written.tolist(), strict=True)]
        valid = ~outside if valid is None else valid & ~outside
    if valid is not None:
        values = np.where(valid, values, 0)  # what stands where nothing is may be anything
    return values.astype(np.int64) * times // over, valid, unfit


def far_texts(column: Any, kind: Kind) -> dict[int, str]:
    """Return the texts, by row, of days and instants that no Python value holds."""
    return dict(days_and_instants(column)[2]) if kind in (Kind.DATE, Kind.TIMESTAMP, Kind.INSTANT, Kind.TIME) else {}
