"""Days and times as text: ISO 8601 calendar dates, and date-times without and with an offset from UTC."""

from __future__ import annotations

import datetime
import re
from functools import cache
from typing import Any

EPOCH = datetime.date(1970, 1, 1).toordinal()
DAY_MICROSECONDS = 86_400_000_000
_MIDNIGHT = datetime.datetime(1970, 1, 1)
_DATE = re.compile(r"(\d{4})-(\d{2})-(\d{2})\Z", re.ASCII)
_CLOCK = r"(\d{2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,9}))?)?\Z"
_TIMESTAMP = re.compile(r"(\d{4})-(\d{2})-(\d{2})[ T]" + _CLOCK, re.ASCII)
_TIME = re.compile(r"(?=\d\d?:)" + _CLOCK.replace(r"(\d{2})", r"(\d{1,2})", 1), re.ASCII)

_OFFSET = re.compile(r"(?:Z|([+-])(\d{2}):?(\d{2}))\Z", re.ASCII)
_MINUTE_MICROSECONDS = 60_000_000


def parse_date(text: str) -> int | None:
    """Return days since 1970-01-01 for ``YYYY-MM-DD``; ``None`` when it has another form.

    Raises ``ValueError`` when the form is right and the day does not exist.

    >>> parse_date('1970-01-02'), parse_date('next week')
    (1, None)
    """
    match = _DATE.match(text)
    if match is None:
        return None
    return day_number(*map(int, match.groups()))


def day_number(year: int, month: int, day: int) -> int:
    """Return days since 1970-01-01. Raises ``ValueError``, which says what there is not, for a day of no calendar."""
    if year < 1:
        raise ValueError("there is no year 0")
    if not 1 <= month <= 12:
        raise ValueError(f"there is no month {month}")
    try:
        return datetime.date(year, month, day).toordinal() - EPOCH
    except ValueError:
        raise ValueError(f"there is no day {day} in {year:04d}-{month:02d}") from None


def clock_microseconds(hour: str, minute: str, second: str | None, fraction: str | None) -> int:
    """Return microseconds since midnight. Raises ``ValueError``, which says what there is not."""
    if int(hour) == 24:
        raise ValueError("24:00 is 00:00 of the next day")
    if int(hour) > 24:
        raise ValueError(f"a day has no hour {hour}")
    if int(minute) > 59:
        raise ValueError(f"an hour has no minute {minute}")
    seconds = int(second or 0)
    if seconds == 60:
        raise ValueError("a leap second (:60) is on no clock here")
    if seconds > 60:
        raise ValueError(f"a minute has no second {second}")
    digits = (fraction or "").ljust(6, "0")
    if digits[6:].strip("0"):
        raise ValueError("it is finer than a microsecond")
    return ((int(hour) * 60 + int(minute)) * 60 + seconds) * 1_000_000 + int(digits[:6])


def parse_time(text: str) -> int | None:
    """Return microseconds since midnight for a time of day (seconds optional, one digit for the hour), or ``None``.

    Raises ``ValueError`` when the form is right and no clock shows that time.
    """
    match = _TIME.match(text)
    return None if match is None else clock_microseconds(*match.groups())


def parse_timestamp(text: str) -> int | None:
    """Return microseconds since 1970-01-01 for an ISO date-time (seconds optional), or ``None``.

    Raises ``ValueError`` when the form is right and the instant does not exist.
    """
    match = _TIMESTAMP.match(text)
    if match is None:
        return None
    year, month, day, *clock = match.groups()
    return day_number(int(year), int(month), int(day)) * DAY_MICROSECONDS + clock_microseconds(*clock)


def parse_instant(text: str) -> tuple[int, int] | None:
    """Return (microseconds since 1970-01-01 in UTC, offset in minutes) for an ISO date-time with one, or ``None``.

    Raises ``ValueError`` when the form is right and the instant does not exist.
    """
    match = _OFFSET.search(text)
    local = None if match is None else parse_timestamp(text[: match.start()].rstrip(" "))
    if match is None or local is None:
        return None
    minutes = 0
    if match.group(1):
        hour, minute = int(match.group(2)), int(match.group(3))
        if hour > 23 or minute > 59:
            raise ValueError(f"there is no offset {match.group()}")
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


def local_microseconds(values: Any, zone: str) -> Any:
    """Return what the clock of a zone shows at some instants, as microseconds since 1970-01-01 there (int64 arrays)."""
    where = _zone(zone)
    if isinstance(where, datetime.timezone):  # the same offset always
        return values + where.utcoffset(None) // datetime.timedelta(microseconds=1)
    found = values.copy()
    for place, value in enumerate(values.tolist()):
        moment = (_MIDNIGHT + datetime.timedelta(microseconds=value)).replace(tzinfo=datetime.UTC)
        found[place] += (moment.astimezone(where).utcoffset() or datetime.timedelta()) // datetime.timedelta(
            microseconds=1
        )
    return found


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


def format_time(microseconds: int) -> str:
    """Write microseconds since midnight as ``HH:MM:SS`` with a fraction only where there is one."""
    return (_MIDNIGHT + datetime.timedelta(microseconds=microseconds)).time().isoformat()


def offset_written(text: str) -> str:
    """Return the offset a text ends in, as a zone: ``+02:00``, or ``UTC`` for Z and +00:00; "" without one."""
    match = _OFFSET.search(text)
    if match is None:
        return ""
    if not match.group(1) or match.group(2) == match.group(3) == "00":
        return "UTC"
    return f"{match.group(1)}{match.group(2)}:{match.group(3)}"


def refusal(text: str) -> str:
    """Say why a text in the form of a day, a moment or a time of day is none; "" for any other text."""
    for parse in (parse_date, parse_timestamp, parse_instant, parse_time):
        try:
            if parse(text.strip()) is not None:
                return ""
        except ValueError as error:
            return str(error)
    return ""
