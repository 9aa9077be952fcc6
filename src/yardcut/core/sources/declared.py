"""Reading texts as a declared kind: dates in a pattern, day counts, Unix times, pairs for booleans."""

from __future__ import annotations

import datetime
import re
from collections import Counter
from collections.abc import Callable
from functools import cache

import numpy as np

from yardcut.core.errors import ListError
from yardcut.core.sources.builders import NumericBuilder, TextBuilder
from yardcut.core.sources.guessing import NeverNumericError, convert, may_set_aside
from yardcut.core.sources.row_places import RowPlaces
from yardcut.core.sources.set_aside import SetAside
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.values.formatting import Value
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.values.temporal import EPOCH

Parser = Callable[[str], Value | None]
_CHUNK_ROWS = 1 << 17
_PARTS = {
    "YYYY": r"(?P<year>\d{4})", "YY": r"(?P<short>\d{2})",
    "MON": r"(?P<name>[^\W\d_]{3,9})", "MM": r"(?P<month>\d{1,2})",
    "DD": r"(?P<day>\d{1,2})", "HH": r"(?P<hour>\d{1,2})", "MI": r"(?P<minute>\d{2})", "SS": r"(?P<second>\d{2})",
}  # fmt: skip
_PART = re.compile("YYYY|YY|MON|MM|DD|HH|MI|SS")
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_WORKBOOK_EPOCH = datetime.date(1899, 12, 30).toordinal() - EPOCH
_DAY_FIRST = tuple(f"DD{mark}MM{mark}YYYY" for mark in "./-")
_MONTH_FIRST = tuple(f"MM{mark}DD{mark}YYYY" for mark in "./-")
_YEAR_FIRST = ("YYYY/MM/DD", "YYYY.MM.DD")
_CLOCKS = ("", " HH:MI", " HH:MI:SS")


@cache
def pattern_parser(pattern: str) -> Parser:
    """Return the reader of a date pattern; a pattern with a clock gives microseconds, one without gives days.

    Raises ``ListError`` for a pattern that names no whole day.
    """
    if len(_PART.findall(pattern)) != len(set(_PART.findall(pattern))):
        raise ListError(f"the pattern {pattern} has a part twice")
    fixed = [re.escape(piece) for piece in _PART.split(pattern)]
    parts = [_PARTS[name] for name in _PART.findall(pattern)]
    source = fixed[0] + "".join(part + literal for part, literal in zip(parts, fixed[1:], strict=True))
    if (
        not {"YYYY", "YY"} & set(_PART.findall(pattern))
        or "DD" not in pattern
        or not {"MM", "MON"} & set(_PART.findall(pattern))
    ):
        raise ListError(f"the pattern {pattern} needs a year (YYYY or YY), a month (MM or MON) and a day (DD)")
    regex = re.compile(source + r"\Z", re.ASCII)
    clock = "HH" in pattern

    def parse(text: str) -> int | None:
        match = regex.match(text.strip())
        if match is None:
            return None
        found = match.groupdict()
        year = int(found.get("year") or 0) or _full_year(int(found.get("short") or 0))
        month = int(found.get("month") or 0) or _month(found.get("name") or "")
        try:
            days = datetime.date(year, month, int(found["day"])).toordinal() - EPOCH
        except ValueError:
            return None
        if not clock:
            return days
        hour, minute, second = (int(found.get(part) or 0) for part in ("hour", "minute", "second"))
        if hour > 23 or minute > 59 or second > 59:
            return None
        return (days * 86_400 + hour * 3600 + minute * 60 + second) * 1_000_000

    return parse


def _full_year(short: int) -> int:
    """Years of two digits lie between 1970 and 2069, as in POSIX strptime."""
    return short + (2000 if short < 70 else 1900)


def _month(name: str) -> int:
    return _MONTHS.index(name[:3].lower()) + 1 if name[:3].lower() in _MONTHS else 0


def parser_of(declared: DeclaredKind, marks: str) -> Parser:
    """Return the reader of texts of a declared kind; it returns ``None`` for a text that does not fit."""
    kind, patterns = declared.kind, declared.patterns
    if kind is Kind.BOOLEAN and len(patterns) == 2:
        truths = {patterns[0].casefold(): True, patterns[1].casefold(): False}
        return lambda text: truths.get(text.strip().casefold())
    if patterns and patterns[0] in ("serial", "unix", "unix ms"):
        return _counted(patterns[0], kind)
    if patterns:
        read = pattern_parser(patterns[0])
        with_clock = "HH" in patterns[0]
        if kind is Kind.DATE and with_clock:
            return lambda text: None if (found := read(text)) is None else int(found) // 86_400_000_000
        if kind is Kind.TIMESTAMP and not with_clock:
            return lambda text: None if (found := read(text)) is None else int(found) * 86_400_000_000
        return read

    def plain(text: str) -> Value | None:
        try:
            return convert([text], kind, marks).values[0]
        except NeverNumericError:
            return _despite_zero(text, kind, marks)

    return plain


def _despite_zero(text: str, kind: Kind, marks: str) -> Value | None:
    """A declared number may lose its leading zeros; an integer beyond 64 bits still does not fit."""
    shorter = re.sub(r"^([+-]?)0+(?=\d)", r"\1", text.strip())
    try:
        return convert([shorter], kind, marks).values[0]
    except NeverNumericError:
        return None


def _counted(how: str, kind: Kind) -> Parser:
    def parse(text: str) -> int | None:
        try:
            value = float(text.strip().replace(",", "."))
            if how == "serial":
                days = value + _WORKBOOK_EPOCH
                counted = int(days // 1) if kind is Kind.DATE else round(days * 86_400_000_000)
            else:
                microseconds = round(value * (1_000 if how == "unix ms" else 1_000_000))
                counted = microseconds // 86_400_000_000 if kind is Kind.DATE else microseconds
            days = counted if kind is Kind.DATE else counted // 86_400_000_000
            datetime.date.fromordinal(days + EPOCH)
        except (ValueError, OverflowError):
            return None
        return counted

    return parse


def pattern_of_whole(counted: Counter[str]) -> tuple[DeclaredKind | None, str]:
    """Return the one date pattern that all texts of a column have, and what is to be said about it.

    Where day-first and month-first both fit, the column stays text and the note asks.
    """
    sample = next(iter(counted))
    if not sample.strip()[:1].isdigit() or len(sample) > 20:
        return None, ""
    for clock in _CLOCKS:
        kind = Kind.TIMESTAMP if clock else Kind.DATE
        fitting = [
            pattern + clock for pattern in (*_DAY_FIRST, *_MONTH_FIRST, *_YEAR_FIRST) if _fits(pattern + clock, counted)
        ]
        if len(fitting) > 1:
            return None, f"may be {kind} '{fitting[0]}' or '{fitting[1]}'; say which with a kind line"
        if fitting:
            return DeclaredKind(kind, (fitting[0],)), f"read as {kind} '{fitting[0]}'"
    return None, ""


def _fits(pattern: str, counted: Counter[str]) -> bool:
    parse = pattern_parser(pattern)
    unfit = unfit_texts = 0
    present = counted.total()
    for text, times in counted.items():
        if parse(text) is None:
            unfit, unfit_texts = unfit + times, unfit_texts + 1
            if not may_set_aside(unfit, unfit_texts, present):
                return False
    return True


def convert_column(
    builder: TextBuilder, declared: DeclaredKind, set_aside: SetAside, marks: str, places: RowPlaces
) -> NumericBuilder:
    """Turn a text column that was written whole into one of a declared kind; what does not fit is set aside."""
    parse = parser_of(declared, marks)
    kind = declared.kind
    empty = float("nan") if kind is Kind.NUMBER else 0
    narrow = NumericBuilder(builder.folder, builder.number, kind, f"{builder.number}-converted")
    known: dict[str, Value | None] = {}
    for start, texts in builder.read_back(_CHUNK_ROWS):
        values, unfit = [], []
        for row, text in enumerate(texts):
            value = None
            if text is not None and text.strip():
                if text not in known:
                    known[text] = parse(text)
                value = known[text]
                if value is None:
                    unfit.append((row, text))
            values.append(value)
        if len(known) > 1 << 20:
            known.clear()
        valid = np.array([value is not None for value in values], dtype=np.bool_)
        filled = np.array([empty if value is None else value for value in values], dtype=STORAGE_DTYPE[kind])
        narrow.append(filled, None if valid.all() else valid)
        set_aside.add(start, unfit, [places.place(start + row) for row, _ in unfit])
    builder.drop()
    narrow.take_place()
    return narrow
