"""Days and times as text: ISO 8601 calendar dates, and date-times without and with an offset from UTC."""

from __future__ import annotations

import datetime
import re
from functools import cache

EPOCH = datetime.date(1970, 1, 1).toordinal()
DAY_MICROSECONDS = 86_400_000_000
_MIDNIGHT = datetime.datetime(1970, 1, 1)
_DATE = re.compile(r"(\d{4})-(\d{2})-(\d{2})\Z", re.ASCII)
_TIMESTAMP = re.compile(r"(\d{4})-(\d{2})-(\d{2})[ T](\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6}))?)?\Z", re.ASCII)

_OFFSET = re.compile(r"(?:Z|([+-])(\d{2}):?(\d{2}))\Z", re.ASCII)
_MINUTE_MICROSECONDS = 60_000_000


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


def parse_instant(text: str) -> tuple[int, int] | None:
    """Return (microseconds since 1970-01-01 in UTC, offset in minutes) for an ISO date-time with one, or ``None``.

    Raises ``ValueError`` when the form is right and the instant does not exist.
    """
    match = _OFFSET.search(text)
    local = None if match is None else parse_timestamp(text[: match.start()].rstrip())
    if match is None or local is None:
        return None
    minutes = 0
    if match.group(1):
        hour, minute = int(match.group(2)), int(match.group(3))
        if hour > 23 or minute > 59:
            raise ValueError(f"no offset {match.group()}")
        minutes = (60 * hour + minute) * (-1 if match.group(1) == "-" else 1)
    return local - minutes * _MINUTE_MICROSECONDS, minutes


def format_instant(microseconds: int, zone: str) -> str:
    """Write an instant as the clock of a zone shows it, with its offset; in UTC where nobody knows the zone."""
    moment = (_MIDNIGHT + datetime.timedelta(microseconds=microseconds)).replace(tzinfo=datetime.UTC)
    return moment.astimezone(_zone(zone)).isoformat(sep=" ")


def format_offset(microseconds: int, minutes: int) -> str:
    """Write an instant with a given offset from UTC."""
    sign, size = "-" if minutes < 0 else "+", abs(minutes)
    return f"{format_timestamp(microseconds + minutes * _MINUTE_MICROSECONDS)}{sign}{size // 60:02d}:{size % 60:02d}"


@cache
def _zone(name: str) -> datetime.tzinfo:
    match = _OFFSET.fullmatch(name)
    if match is not None and match.group(1):
        size = datetime.timedelta(hours=int(match.group(2)), minutes=int(match.group(3)))
        return datetime.timezone(-size if match.group(1) == "-" else size)
    from zoneinfo import ZoneInfo  # here, because few tables need it

    try:
        return ZoneInfo(name) if name else datetime.UTC
    except (KeyError, OSError, ValueError):
        return datetime.UTC


def format_date(days: int) -> str:
    """Write days since 1970-01-01 as ``YYYY-MM-DD``."""
    return datetime.date.fromordinal(days + EPOCH).isoformat()


def format_timestamp(microseconds: int) -> str:
    """Write microseconds since 1970-01-01 as ``YYYY-MM-DD HH:MM:SS`` with a fraction only where there is one."""
    return (_MIDNIGHT + datetime.timedelta(microseconds=microseconds)).isoformat(sep=" ")
