"""Days and moments in other forms than ISO: reading a pattern, and finding the one pattern that a whole column has."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from functools import cache

from yardcut.core.errors import ListError
from yardcut.core.sources.kinds.guessing_kinds import may_set_aside
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.values.formatting import Value
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import DAY_MICROSECONDS, clock_microseconds, day_number

Parser = Callable[[str], Value | None]
_PARTS = {
    "YYYY": r"(?P<year>\d{4})", "YY": r"(?P<short>\d{2})",
    "MON": r"(?P<name>[^\W\d_]{3,9})\.?", "MM": r"(?P<month>\d{1,2})",
    "DD": r"(?P<day>\d{1,2})", "HH": r"(?P<hour>\d{1,2})", "MI": r"(?P<minute>\d{2})",
    "SS": r"(?P<second>\d{2})(?:[.,](?P<fraction>\d{1,9}))?",
}  # fmt: skip
_PART = re.compile("YYYY|YY|MON|MM|DD|HH|MI|SS")
_MONTHS = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
)  # fmt: skip
_LEAST_MONTH = 3
_MARKS = "./-"
_DAYS = (
    *(f"{first}{mark}{second}{mark}{year}" for year in ("YYYY", "YY") for first, second in (("DD", "MM"), ("MM", "DD"))
      for mark in _MARKS),
    *(f"{year}{mark}MM{mark}DD" for year in ("YYYY", "YY") for mark in _MARKS),
    *(f"DD{mark}MON{mark}{year}" for year in ("YYYY", "YY") for mark in (" ", "-", "/")),
    "DD. MON YYYY",     "MON DD, YYYY", "MON DD YYYY", "YYYY MON DD", "YYYY-MON-DD", "YYYY/MON/DD",
)  # fmt: skip
_CLOCKS = ("", " HH:MI", " HH:MI:SS", "THH:MI", "THH:MI:SS")
_WITHOUT_MARKS = ("YYYYMMDDTHHMISS", "YYYYMMDD HHMISS")
_LIKELY = re.compile(
    r"\d{1,4}[-./ ]+\d{1,2}[-./ ]+\d|\d{1,4}[-./ ]+[^\W\d_]{3}|[^\W\d_]{3,9}\.? \d{1,2},? \d{4}|\d{8}[T ]\d{6}\Z",
    re.ASCII,
)
"""How a text begins that any of the patterns may fit."""
_LONGEST = 40
_LOOKED_AT = 50


@cache
def pattern_parser(pattern: str) -> Parser:
    """Return the reader of a date pattern; a pattern with a clock gives microseconds, one without gives days.

    Raises ``ListError`` for a pattern that names no whole day.
    """
    parts = _PART.findall(pattern)
    if len(parts) != len(set(parts)):
        raise ListError(f"the pattern {pattern} has a part twice")
    if not {"YYYY", "YY"} & set(parts) or "DD" not in parts or not {"MM", "MON"} & set(parts):
        raise ListError(f"the pattern {pattern} needs a year (YYYY or YY), a month (MM or MON) and a day (DD)")
    regex = re.compile(_source(pattern, parts) + r"\Z", re.ASCII)
    clock = "HH" in parts

    def parse(text: str) -> int | None:
        match = regex.match(text.strip())
        if match is None:
            return None
        found = match.groupdict()
        year = int(found["year"]) if found.get("year") else _full_year(int(found["short"]))
        month = int(found["month"]) if found.get("month") else _month(found["name"])
        try:
            days = day_number(year, month, int(found["day"]))
            if not clock:
                return days
            return days * DAY_MICROSECONDS + clock_microseconds(
                found["hour"], found.get("minute") or "0", found.get("second"), found.get("fraction")
            )
        except ValueError:
            return None

    return parse


def _source(pattern: str, parts: Sequence[str]) -> str:
    """Return a pattern as a regular expression; parts without anything between them have all their digits."""
    fixed = _PART.split(pattern)
    source = re.escape(fixed[0])
    for place, part in enumerate(parts):
        touches = (place > 0 and not fixed[place]) or (place + 1 < len(parts) and not fixed[place + 1])
        written = _PARTS[part].replace(r"\d{1,2}", r"\d{2}") if touches else _PARTS[part]
        source += written + re.escape(fixed[place + 1])
    return source


def _full_year(short: int) -> int:
    """Years of two digits lie between 1970 and 2069, as in POSIX strptime."""
    return short + (2000 if short < 70 else 1900)


def _month(name: str) -> int:
    """Return the number of a month by its name or the beginning of it, or 0."""
    word = name.lower()
    if len(word) < _LEAST_MONTH:
        return 0
    return next((number for number, month in enumerate(_MONTHS, 1) if month.startswith(word)), 0)


def candidates(texts: Iterable[str]) -> list[str]:
    """Return the patterns that most of some texts have."""
    looked_at = [text for _, text in zip(range(_LOOKED_AT), texts, strict=False)]
    likely = [text for text in looked_at if len(text) <= _LONGEST and _LIKELY.match(text.strip())]
    if 2 * len(likely) < len(looked_at) or not likely:
        return []
    whole = [*(day + clock for clock in _CLOCKS for day in _DAYS), *_WITHOUT_MARKS]
    return [
        pattern
        for pattern in whole
        if any(pattern_parser(pattern)(text) is not None for text in likely[:2])
        and 2 * sum(1 for text in looked_at if pattern_parser(pattern)(text) is not None) > len(looked_at)
    ]


class PatternCount:
    """Counts over many texts which of some patterns they do not have; a pattern that too many lack is given up."""

    def __init__(self, patterns: Sequence[str], values: int) -> None:
        self._values = values
        self._unfit: dict[str, Counter[str]] = {pattern: Counter() for pattern in patterns}

    @property
    def patterns(self) -> list[str]:
        """The patterns that all but a few of the texts so far have."""
        return list(self._unfit)

    def add(self, counted: Counter[str]) -> None:
        """Take texts with how often each stands."""
        for pattern, unfit in list(self._unfit.items()):
            parse = pattern_parser(pattern)
            for text, times in counted.items():
                if parse(text) is None:
                    unfit[text] += times
                    if not may_set_aside(unfit.total(), len(unfit), self._values):
                        del self._unfit[pattern]
                        break

    def found(self) -> list[DeclaredKind]:
        """Return the patterns the whole column has: of several (day first, month first) nobody knows which is meant."""
        return [DeclaredKind(Kind.TIMESTAMP if "HH" in each else Kind.DATE, (each,)) for each in self._unfit]


def patterns_of_whole(counted: Counter[str]) -> list[DeclaredKind]:
    """Return the date patterns that all texts of a column have."""
    count = PatternCount(candidates(counted), counted.total())
    count.add(counted)
    return count.found()
