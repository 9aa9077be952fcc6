"""Days and instants as text: ISO 8601 calendar dates, and date-times without a zone."""

from __future__ import annotations

import datetime
import re

EPOCH = datetime.date(1970, 1, 1).toordinal()
DAY_MICROSECONDS = 86_400_000_000
_MIDNIGHT = datetime.datetime(1970, 1, 1)
_DATE = re.compile(r"(\d{4})-(\d{2})-(\d{2})\Z", re.ASCII)
_TIMESTAMP = re.compile(r"(\d{4})-(\d{2})-(\d{2})[ T](\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6}))?)?\Z", re.ASCII)


def parse_date(text: str) -> int | None:
    """Return days since 1970-01-01 for ``YYYY-MM-DD``; ``None`` when it has another form.

    Raises ``ValueError`` when the form is right and the day does not exist.
    """
    match = _DATE.match(text)
    if match is None:
        return None
    return datetime.date(*map(int, match.groups())).toordinal() - EPOCH


def parse_timestamp(text: str) -> int | None:
    """Return microseconds since 1970-01-01 for an ISO date-time (seconds optional), or ``None``.

    Raises ``ValueError`` when the form is right and the instant does not exist.
    """
    match = _TIMESTAMP.match(text)
    if match is None:
        return None
    year, month, day, hour, minute, second, fraction = match.groups()
    moment = datetime.datetime(
        int(year), int(month), int(day), int(hour), int(minute), int(second or 0),
        int((fraction or "0").ljust(6, "0")),
    )  # fmt: skip
    return (moment - _MIDNIGHT) // datetime.timedelta(microseconds=1)


def format_date(days: int) -> str:
    """Write days since 1970-01-01 as ``YYYY-MM-DD``."""
    return datetime.date.fromordinal(days + EPOCH).isoformat()


def format_timestamp(microseconds: int) -> str:
    """Write microseconds since 1970-01-01 as ``YYYY-MM-DD HH:MM:SS`` with a fraction only where there is one."""
    return (_MIDNIGHT + datetime.timedelta(microseconds=microseconds)).isoformat(sep=" ")
