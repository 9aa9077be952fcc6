"""The likely conditions about a column and one of its values."""

from __future__ import annotations

import calendar
import datetime

from yardcut.core.language.helping.value_sets import value_literal
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import literal
from yardcut.core.values.kinds import Kind

_LONG_CHARACTERS = 1_000
_BEGINNING = 40


@dataclass(frozen=True, slots=True)
class LikelyCondition:
    """A condition, and what it says. ``strict`` is the one without the bound itself, ``says_strict`` what that says."""

    says: str
    text: str
    says_strict: str = ""
    strict: str = ""


def likely_conditions(name: str, kind: Kind, text: str | None) -> list[LikelyCondition]:
    """Return the likely conditions about a value (as the grid shows it; ``None``: it is missing), likeliest first."""
    column = name_text(name)
    present = LikelyCondition("it has a value", f"{column} IS NOT NULL")
    absent = LikelyCondition("it has no value", f"{column} IS NULL")
    if text is None:
        return [absent, present]
    if kind is Kind.TEXT and len(text) > _LONG_CHARACTERS:
        beginning = literal(kind, text[:_BEGINNING])
        return [LikelyCondition("it begins like this", f"{column} STARTS WITH {beginning}"), present, absent]
    value = value_literal(kind, text)
    same = LikelyCondition("this very value", f"{column} = {value}")
    other = LikelyCondition("any other value", f"{column} <> {value}")
    if kind is Kind.BOOLEAN:
        return [same, other, present, absent]
    if kind is Kind.TEXT:
        return [same, other, *_of_text(column, text), present, absent]
    return [same, *_bounds(column, kind, value), *_spans(column, kind, text), other, present, absent]


def _of_text(column: str, text: str) -> list[LikelyCondition]:
    value = literal(Kind.TEXT, text)
    found = [LikelyCondition("whatever its capitals and blanks", f"{column} = {value} IGNORING CASE")]
    words = text.split()
    if len(words) > 1:
        found.append(
            LikelyCondition("it starts with its first word", f"{column} STARTS WITH {literal(Kind.TEXT, words[0])}")
        )
    if text:
        found.append(LikelyCondition("it has this in it", f"{column} CONTAINS {value}"))
    return found


def _bounds(column: str, kind: Kind, value: str) -> list[LikelyCondition]:
    words = ("at least this", "at most this", "more than this", "less than this")
    if not kind.is_numeric:
        words = ("then or later", "then or earlier", "later", "earlier")
    return [
        LikelyCondition(words[0], f"{column} >= {value}", words[2], f"{column} > {value}"),
        LikelyCondition(words[1], f"{column} <= {value}", words[3], f"{column} < {value}"),
    ]


def _spans(column: str, kind: Kind, text: str) -> list[LikelyCondition]:
    """Return the value's month and year, or its place among the largest."""
    if kind.is_numeric:
        return [LikelyCondition("among the highest tenth", f"{column} >= QUANTILE({column}, 0.9)"),
                LikelyCondition("among the lowest tenth", f"{column} <= QUANTILE({column}, 0.1)")]  # fmt: skip
    if not kind.is_temporal:
        return []
    try:
        day = datetime.date.fromisoformat(text[:10])
    except ValueError:
        return []
    if day.year >= datetime.MAXYEAR:
        return []
    month_end = day.replace(day=calendar.monthrange(day.year, day.month)[1])
    months = (day.replace(day=1), month_end)
    years = (day.replace(month=1, day=1), day.replace(month=12, day=31))
    return [
        LikelyCondition(f"in the same {word}", _within(column, kind, first, last))
        for word, (first, last) in (("month", months), ("year", years))
    ]


def _within(column: str, kind: Kind, first: datetime.date, last: datetime.date) -> str:
    if kind is Kind.DATE:
        return f"{column} BETWEEN '{first}' AND '{last}'"
    return f"{column} >= '{first}' AND {column} < '{last + datetime.timedelta(days=1)}'"
