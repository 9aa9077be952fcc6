"""What single values come to: comparing, reading, casting, rounding. Nothing here knows of rows."""

from __future__ import annotations

import datetime as dt
import math
import operator as op
import re
from decimal import ROUND_HALF_UP, Decimal, localcontext
from fractions import Fraction
from typing import Any


def midnight(day: dt.date) -> dt.datetime:
    return day if isinstance(day, dt.datetime) else dt.datetime(day.year, day.month, day.day)


def fold(text: str) -> str:
    """Fold by Unicode's simple folding: one character for one."""
    return "".join(found if len(found := char.casefold()) == 1 else char for char in text)


def read_moment(text: str, kind: str) -> Any:
    """Read an ISO text as a day or time."""
    if kind == "time":
        return dt.time.fromisoformat(text)
    if len(text) == 10:
        day = dt.date.fromisoformat(text)
        return day if kind == "date" else midnight(day)
    return dt.datetime.fromisoformat(text)


def compared(operator: str, one: Any, other: Any, ignoring: bool) -> bool:
    """Compare two values that are there, of comparable kinds."""
    if ignoring:
        one, other = fold(one.strip()), fold(other.strip())
    if isinstance(one, dt.datetime) is not isinstance(other, dt.datetime) and isinstance(one, dt.date):
        one, other = midnight(one), midnight(other)
    by = {"=": op.eq, "<>": op.ne, "<": op.lt, "<=": op.le, ">": op.gt, ">=": op.ge}[operator]
    return bool(by(one, other))


def is_like(text: str, pattern: str, escape: str, ignoring: bool) -> bool | None:
    parts, place = [], 0
    while place < len(pattern):
        char = pattern[place]
        if escape and char == escape:
            place += 1
            if place == len(pattern):
                return None  # it ends in the middle of an escape: no answer
            parts.append(re.escape(fold(pattern[place]) if ignoring else pattern[place]))
        else:
            parts.append({"%": ".*", "_": "."}.get(char, re.escape(fold(char) if ignoring else char)))
        place += 1
    return re.fullmatch("".join(parts), fold(text) if ignoring else text, re.DOTALL) is not None


def finite(value: Any) -> float | None:
    try:
        found = float(value)
    except OverflowError:
        return None
    return found + 0.0 if math.isfinite(found) else None


def later(moment: Any, count: int, unit: str) -> Any:
    if unit in ("YEAR", "MONTH"):
        months = moment.year * 12 + moment.month - 1 + count * (12 if unit == "YEAR" else 1)
        year, month = divmod(months, 12)
        last = (dt.date(year + (month == 11), (month + 1) % 12 + 1, 1) - dt.timedelta(1)).day
        return moment.replace(year=year, month=month + 1, day=min(moment.day, last))
    step = dt.timedelta(**{{"DAY": "days", "HOUR": "hours", "MINUTE": "minutes", "SECOND": "seconds"}[unit]: count})
    if isinstance(moment, dt.time):
        return (dt.datetime.combine(dt.date(2000, 1, 2), moment) + step).time()
    return (moment if unit == "DAY" else midnight(moment)) + step


def as_text(value: Any) -> str | None:
    """Return a value's text as the grid shows it."""
    if value is None or isinstance(value, str):
        return value
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dt.datetime):
        return value.isoformat(" ", "microseconds").rstrip("0").removesuffix(".")
    if isinstance(value, dt.date | dt.time):
        return value.isoformat()
    text = repr(value)
    return text.removesuffix(".0")


def cast(value: Any, kind: str) -> Any:
    """Return a value as another kind; ``None`` where it does not fit."""
    if value is None:
        return None
    if kind == "text":
        return as_text(value)
    if isinstance(value, str):
        return read_text(value.strip() if kind != "text" else value, kind)
    match kind:
        case "integer":
            return int(value)
        case "number":
            return float(value)
        case "boolean":
            return value if isinstance(value, bool) else bool(value) if value in (0, 1) else None
        case "date":
            return dt.date(value.year, value.month, value.day)
        case "timestamp":
            return midnight(value)
        case "time":
            return value if isinstance(value, dt.time) else value.time()
    raise AssertionError(kind)


def read_text(text: str, kind: str) -> Any:
    try:
        match kind:
            case "integer":
                return int(text) if re.fullmatch(r"[+-]?\d+", text) else None
            case "number":
                return finite(text) if re.fullmatch(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?", text) else None
            case "boolean":
                return {"true": True, "false": False}.get(text.lower())
            case _:
                return read_moment(text, kind)
    except ValueError:
        return None


def extracted(part: str, value: Any) -> Any:
    if part == "QUARTER":
        return (value.month + 2) // 3
    if part == "WEEK":
        return value.isocalendar().week
    if part == "WEEKDAY":
        return value.isoweekday()
    if part == "SECOND":
        return float(Fraction(value.second * 10**6 + value.microsecond, 10**6))
    return getattr(value, part.lower())


def statistic(function: str, there: list[Any], kind: str) -> Any:
    """Return the sum, average, least or largest of what is there: sums are exact and rounded once."""
    if function in ("MIN", "MAX"):
        ordered = sorted(there, key=lambda value: midnight(value) if isinstance(value, dt.date) else value)
        return ordered[0 if function == "MIN" else -1]
    total = sum((Fraction(value) for value in there), Fraction(0))
    if function == "SUM":
        return int(total) if kind == "integer" else finite(total)
    return finite(total / len(there))


def spread(there: list[Any], *, is_root: bool) -> float | None:
    """Return the sample variance, exact and rounded once, or its root."""
    if len(there) < 2:
        return None
    values = [Fraction(value) for value in there]
    average = sum(values, Fraction(0)) / len(values)
    variance = sum(((value - average) ** 2 for value in values), Fraction(0)) / (len(values) - 1)
    if not is_root:
        return finite(variance)
    with localcontext() as context:
        context.prec = 400
        return finite((Decimal(variance.numerator) / Decimal(variance.denominator)).sqrt())


def quantile(ordered: list[Any], share: Fraction) -> Any:
    """Interpolate linearly (definition 7) between the numbers as written in decimals; of days and times take the lower neighbour."""
    place = share * (len(ordered) - 1)
    low = math.floor(place)
    if isinstance(ordered[0], dt.date | dt.time):
        return ordered[low]
    high = min(low + 1, len(ordered) - 1)
    one, other = (Fraction(Decimal(repr(ordered[number]))) for number in (low, high))
    return float(one + (place - low) * (other - one))


def rounded(value: float, digits: int) -> Any:
    with localcontext() as context:
        context.prec = 800
        digits = max(-400, min(400, digits))  # no number has a digit further from the point
        if isinstance(value, int) and digits >= 0:
            return value
        return type(value)(Decimal(repr(value)).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP))


def transcendental(name: str, values: list[float]) -> float | None:
    with localcontext() as context:
        context.prec = 60
        x = Decimal(values[0])
        if name == "EXP":
            return finite(x.exp()) if values[0] < 800 else None
        if name in ("LN", "LOG10"):
            return None if values[0] <= 0 else finite(x.ln() if name == "LN" else x.log10())
        y = values[1]
        if values[0] < 0 and y != int(y):
            return None
        if values[0] == 0:
            return None if y < 0 else 1.0 if y == 0 else 0.0
        return finite(x ** Decimal(y))


def called(name: str, values: list[Any]) -> Any:
    """Return what a function makes of values, none of which is missing."""
    first = values[0]
    match name:
        case "ABS":
            return abs(first)
        case "CEILING":
            return math.ceil(first)
        case "FLOOR":
            return math.floor(first)
        case "ROUND":
            return rounded(first, values[1] if len(values) > 1 else 0)
        case "SQRT":
            return math.sqrt(first) if first >= 0 else None
        case "POWER" | "EXP" | "LN" | "LOG10":
            return transcendental(name, [float(value) for value in values])
        case "UPPER":
            return first.upper()
        case "LOWER":
            return first.lower()
        case "CHAR_LENGTH":
            return len(first)
        case "POSITION":
            return values[1].find(first) + 1
        case "SUBSTRING":
            start = values[1] - 1
            end = len(first) if len(values) < 3 else start + values[2]
            return None if len(values) > 2 and values[2] < 0 else first[max(0, start) : max(0, end, start)]
        case "DATE_FROM":
            try:
                return dt.date(*values)
            except (ValueError, OverflowError):
                return None
    raise AssertionError(name)
