"""What a value is, row by row: three-valued conditions, arithmetic, functions, values of all rows."""

from __future__ import annotations

import datetime as dt
import math
import operator as op
import re
from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal, localcontext
from fractions import Fraction
from typing import Any

from reference.reading import Node

NUMERIC = ("integer", "number")
DAYS = ("date", "timestamp")


@dataclass
class Row:
    """One row: its values by column, its number in the source, and which copies of copies it is."""

    values: dict[int, Any]
    source_row: int
    copies: tuple[int, ...] = ()


@dataclass
class Table:
    """Rows, the columns shown of them by name, those that may be used besides, and the kinds of all."""

    rows: list[Row]
    shown: list[tuple[str, int]]
    known: list[tuple[str, int]]
    kinds: dict[int, str]
    today: dt.date = dt.date(2031, 6, 15)
    dials: dict[str, Any] = field(default_factory=dict)

    def find(self, node: Node) -> int:
        """Return the column a name means: the shown one first, else the hidden one."""
        if node[0] == "number of column":  # of the source's columns, and behind them those that lines made
            return int(self.known[int(node[1]) - (node[1] > 0)][1])
        if node[0] == "dial":
            return self.find(("name", self.dials[node[1]]))
        return int(next(key for name, key in (*self.shown, *self.known) if name == node[1]))


def kind_of(node: Node, table: Table) -> str:
    """Return the kind of a value."""
    match node:
        case ("value", _, kind):
            return str(kind)
        case ("literal", bool()):
            return "boolean"
        case (
            ("literal", int())
            | ("SOURCE_ROW",)
            | ("extract", "YEAR" | "QUARTER" | "MONTH" | "WEEK" | "DAY" | "WEEKDAY" | "HOUR" | "MINUTE", _)
        ):
            return "integer"
        case ("literal", Decimal()) | ("extract", "SECOND", _):
            return "number"
        case ("literal", str()) | ("trim", *_):
            return "text"
        case ("literal", None):
            return "nothing"
        case ("CURRENT_DATE",):
            return "date"
        case ("moment", word, _):
            return str(word).lower()
        case ("name", _) | ("number of column", _) | ("dial", _):
            return table.kinds[table.find(node)]
        case ("bracket" | "minus", inner):
            return kind_of(inner, table)
        case ("cast", _, kind):
            return str(kind)
        case ("math", "||", _, _):
            return "text"
        case ("math", operator, left, right):
            kinds = (kind_of(left, table), kind_of(right, table))
            if right[0] == "interval" and kinds[0] == "time":
                return "time"
            if right[0] == "interval":
                return "timestamp" if kinds[0] == "timestamp" or right[2] in ("HOUR", "MINUTE", "SECOND") else kinds[0]
            if kinds == ("date", "date"):
                return "integer"
            if kinds[0] in DAYS:
                return "number"
            return "integer" if kinds == ("integer", "integer") and operator != "/" else "number"
        case ("case", _, branches, otherwise):
            return _one_kind([kind_of(then, table) for _, then in branches] + [kind_of(otherwise, table)])
        case ("across", function, columns):
            return _kind_across(function, [table.kinds[key] for _, key in chosen(columns, table)])
        case ("call" | "whole", name, arguments):
            return _kind_of_call(name, [kind_of(each, table) for each in arguments])
    return "boolean"


def _one_kind(kinds: list[str]) -> str:
    found = [kind for kind in kinds if kind != "nothing"]
    days = next((kind for kind in found if kind in (*DAYS, "time")), None)
    if "number" in found:
        return "number"
    return "timestamp" if "timestamp" in found else days or found[0]


def _kind_across(function: str, kinds: list[str]) -> str:
    if function == "COUNT":
        return "integer"
    if function in ("MIN", "MAX"):
        return _one_kind(kinds)
    return "integer" if function == "SUM" and set(kinds) == {"integer"} else "number"


def _kind_of_call(name: str, kinds: list[str]) -> str:
    match name:
        case "COUNT" | "CHAR_LENGTH" | "POSITION":
            return "integer"
        case "SQRT" | "POWER" | "EXP" | "LN" | "LOG10" | "AVG":
            return "number"
        case "UPPER" | "LOWER" | "SUBSTRING":
            return "text"
        case "REPEATED":
            return "boolean"
        case "DATE_FROM":
            return "date"
        case "QUANTILE":
            return "number" if kinds[0] in NUMERIC else kinds[0]
        case "ROUND" | "NULLIF" | "CEILING" | "FLOOR" | "ABS" | "SUM" | "MIN" | "MAX":
            return kinds[0]
    return _one_kind(kinds)  # MOD, GREATEST, LEAST, COALESCE


# conditions


def truth(node: Node, row: Row, table: Table) -> bool | None:
    """Answer a condition for a row; ``None`` is unknown."""
    match node:
        case ("not piece", inner) if inner[_side_of(inner)][0] == "quantified":
            return _quantified(inner, _side_of(inner), row, table, negated=True)
        case ("or", *items):
            found = [truth(item, row, table) for item in items if not is_off(item)]
            return True if True in found else None if None in found else False
        case ("and", *items):
            found = [truth(item, row, table) for item in items if not is_off(item)]
            return False if False in found else None if None in found else True
        case ("not" | "not piece", inner):
            answer = truth(inner, row, table)
            return None if answer is None else not answer
        case ("bracket", inner):
            return truth(inner, row, table)
        case ("is", inner, "NULL", negated):
            if inner[0] == "quantified":
                found = [row.values[key] is None for _, key in chosen(inner[2], table)]
                return (any(found) if inner[1] == "ANY" else all(found)) if not negated else (
                    any(not each for each in found) if inner[1] == "ANY" else all(not each for each in found)
                )  # fmt: skip
            return (evaluate(inner, row, table) is None) is not negated
        case ("is", inner, word, negated):
            return (truth(inner, row, table) is {"TRUE": True, "FALSE": False, "UNKNOWN": None}[word]) is not negated
        case ("distinct", left, right, negated):
            one, other = _alike([left, right], row, table)
            same = one is None and other is None if one is None or other is None else compared("=", one, other, False)
            return same if negated else not same
    if node[0] in ("compare", "between", "in", "like", "regex", "part"):
        if node[_side_of(node)][0] == "quantified":
            return _quantified(node, _side_of(node), row, table)
        return _test(node, row, table)
    value = evaluate(node, row, table)
    assert value is None or isinstance(value, bool)
    return value


def is_off(node: Node) -> bool:
    """Tell whether a condition is switched off, all of it."""
    if node[0] in ("and", "or"):
        return all(map(is_off, node[1:]))
    return node[0] == "off" or (node[0] in ("not", "not piece", "bracket") and is_off(node[1]))


def _side_of(test: Node) -> int:
    """Return the place of a test's left side."""
    return 1 if test[0] in ("between", "in", "like", "regex") else 2 if test[0] in ("compare", "part") else 0


def _quantified(node: Node, place: int, row: Row, table: Table, *, negated: bool = False) -> bool:
    """Test several columns; a NOT before the word of the test belongs to the test of each."""
    every, columns = node[place][1] == "ALL", chosen(node[place][2], table)
    found = []
    of_texts = node[0] in ("like", "regex", "part")
    others = [
        part
        for at, part in enumerate(node)
        if at not in (0, place) and isinstance(part, tuple) and part and isinstance(part[0], str)
    ]
    others = list(node[2]) if node[0] == "in" else others
    for _, key in columns:
        value = row.values[key]
        kind = table.kinds[key]
        if not of_texts and not all(_fits(kind, other, table) for other in others):
            continue
        shown = ("value", as_text(value) if of_texts else value, "text" if of_texts else kind)
        answer = _test((*node[:place], shown, *node[place + 1 :]), row, table)
        if value is not None and answer is not None:
            found.append(answer is not negated)
    return bool(found) and (all(found) if every else any(found))


def _fits(kind: str, other: Node, table: Table) -> bool:
    """Tell whether a column of a kind can be compared with a value; a text beside a day is one, or cannot be."""
    both = {kind, kind_of(other, table)}
    if other[0] == "literal" and isinstance(other[1], str) and kind in (*DAYS, "time"):
        return _read(other[1], kind) is not None
    return len(both) == 1 or both <= set(NUMERIC) or both <= set(DAYS)


def _test(node: Node, row: Row, table: Table) -> bool | None:
    match node:
        case ("compare", operator, left, right, ignoring):
            one, other = _alike([left, right], row, table)
            return None if one is None or other is None else compared(operator, one, other, ignoring)
        case ("between", value, low, high, symmetric):
            x, a, b = _alike([value, low, high], row, table)
            ways = [(a, b), (b, a)] if symmetric else [(a, b)]
            found = [_both(_reaches(x, least), _reaches(most, x)) for least, most in ways]
            return True if True in found else None if None in found else False
        case ("in", value, items, ignoring):
            x, *others = _alike([value, *items], row, table)
            found = [None if x is None or each is None else compared("=", x, each, ignoring) for each in others]
            return True if True in found else None if None in found else False
        case ("like", value, pattern, escape, ignoring):
            text, wanted = evaluate(value, row, table), evaluate(pattern, row, table)
            return None if text is None or wanted is None else _is_like(text, wanted, escape, ignoring)
        case ("regex", value, pattern, flags):
            text = evaluate(value, row, table)
            how = sum({"i": re.IGNORECASE, "m": re.MULTILINE, "s": re.DOTALL}[flag] for flag in set(flags))
            return None if text is None else re.search(pattern[1], text, how) is not None
        case ("part", how, value, part, ignoring):
            text, wanted = evaluate(value, row, table), evaluate(part, row, table)
            if text is None or wanted is None:
                return None
            if ignoring:
                text = {"starts": text.lstrip(), "ends": text.rstrip()}.get(how, text)
                text, wanted = fold(text), fold(wanted)
            return bool(
                {"contains": wanted in text, "starts": text.startswith(wanted), "ends": text.endswith(wanted)}[how]
            )
    raise AssertionError(node)


def _both(one: bool | None, other: bool | None) -> bool | None:
    return False if False in (one, other) else None if None in (one, other) else True


def _reaches(one: Any, other: Any) -> bool | None:
    return None if one is None or other is None else compared(">=", one, other, False)


def compared(operator: str, one: Any, other: Any, ignoring: bool) -> bool:
    """Compare two values that are there, of comparable kinds."""
    if ignoring:
        one, other = fold(one.strip()), fold(other.strip())
    if isinstance(one, dt.datetime) is not isinstance(other, dt.datetime) and isinstance(one, dt.date):
        one, other = _midnight(one), _midnight(other)
    by = {"=": op.eq, "<>": op.ne, "<": op.lt, "<=": op.le, ">": op.gt, ">=": op.ge}[operator]
    return bool(by(one, other))


def _midnight(day: dt.date) -> dt.datetime:
    return day if isinstance(day, dt.datetime) else dt.datetime(day.year, day.month, day.day)


def fold(text: str) -> str:
    """Fold by Unicode's simple folding: one character for one."""
    return "".join(found if len(found := char.casefold()) == 1 else char for char in text)


def _alike(nodes: list[Node], row: Row, table: Table) -> list[Any]:
    """Evaluate values that stand side by side: a text written beside a day is read as one, a decimal as what it is beside."""
    kinds = [kind_of(node, table) for node in nodes]
    found = [evaluate(node, row, table) for node in nodes]
    beside = next(
        (kind for kind in kinds if kind in ("timestamp", "instant", "time")), "date" if "date" in kinds else ""
    )
    for place, node in enumerate(nodes):
        inner = node
        if beside and inner[0] == "literal" and isinstance(inner[1], str):
            found[place] = read_moment(inner[1], beside)
    return found


def read_moment(text: str, kind: str) -> Any:
    """Read an ISO text as a day or time."""
    if kind == "time":
        return dt.time.fromisoformat(text)
    if len(text) == 10:
        day = dt.date.fromisoformat(text)
        return day if kind == "date" else _midnight(day)
    return dt.datetime.fromisoformat(text)


def _is_like(text: str, pattern: str, escape: str, ignoring: bool) -> bool | None:
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


# values


def evaluate(node: Node, row: Row, table: Table) -> Any:
    """Return a value for a row, of the kind its expression has; ``None`` where there is none."""
    value = _evaluate(node, row, table)
    if value is None or node[0] in ("value", "literal"):
        return float(value) if isinstance(value, Decimal) else value
    kind = kind_of(node, table)
    if kind == "number":
        return _finite(value)
    if kind == "integer":
        return value if -(2**63) <= value < 2**63 else None
    return _midnight(value) if kind == "timestamp" else value


def _finite(value: Any) -> float | None:
    try:
        found = float(value)
    except OverflowError:
        return None
    return found + 0.0 if math.isfinite(found) else None


def _evaluate(node: Node, row: Row, table: Table) -> Any:
    match node:
        case ("value", value, _) | ("literal", value):
            return value
        case ("SOURCE_ROW",):
            return row.source_row
        case ("CURRENT_DATE",):
            return table.today
        case ("moment", word, text):
            return read_moment(text, word.lower())
        case ("name", _) | ("number of column", _) | ("dial", _):
            return row.values[table.find(node)]
        case ("minus", inner):
            value = evaluate(inner, row, table)
            return None if value is None else -value
        case ("bracket", inner):
            return evaluate(inner, row, table) if inner[0] not in _CONDITIONS else truth(inner, row, table)
        case ("math", operator, left, right):
            return _computed(operator, left, right, row, table)
        case ("case", subject, branches, otherwise):
            return _case(subject, branches, otherwise, row, table)
        case ("cast", inner, kind):
            return cast(any_value(inner, row, table), kind)
        case ("extract", part, inner):
            value = evaluate(inner, row, table)
            return None if value is None else _extract(part, value)
        case ("trim", side, character, inner):
            text = evaluate(inner, row, table)
            if text is None:
                return None
            trim = {"BOTH": text.strip, "LEADING": text.lstrip, "TRAILING": text.rstrip}[side]
            return trim(character) if character else trim()
        case ("across", function, columns):
            return _across(function, [row.values[key] for _, key in chosen(columns, table)], kind_of(node, table))
        case ("whole", name, arguments):
            return whole(name, arguments, row, table)
        case ("call", name, arguments):
            return _call(name, arguments, row, table)
    return truth(node, row, table)


_CONDITIONS = ("or", "and", "not", "not piece", "is", "distinct", "compare", "between", "in", "like", "regex", "part")


def any_value(node: Node, row: Row, table: Table) -> Any:
    """Return the value of something that may be a condition."""
    return truth(node, row, table) if node[0] in _CONDITIONS else evaluate(node, row, table)


def _computed(operator: str, left: Node, right: Node, row: Row, table: Table) -> Any:
    one = evaluate(left, row, table)
    if right[0] == "interval":
        try:
            return None if one is None else _later(one, right[1] if operator == "+" else -right[1], right[2])
        except (ValueError, OverflowError):  # a day that is in no calendar
            return None
    other = evaluate(right, row, table)
    if one is None or other is None:
        return None
    if operator == "||":
        return one + other
    if isinstance(one, dt.date):
        if not isinstance(one, dt.datetime) and not isinstance(other, dt.datetime):
            return (one - other).days
        apart = _midnight(one) - _midnight(other)
        return float(Fraction(apart // dt.timedelta(microseconds=1), 86_400_000_000))
    whole = kind_of(left, table) == kind_of(right, table) == "integer"
    if not whole or operator == "/":
        one, other = float(one), float(other)
    try:
        match operator:
            case "+":
                return one + other
            case "-":
                return one - other
            case "*":
                return one * other
            case "/":
                return one / other
            case _:
                return (abs(one) % abs(other)) * (-1 if one < 0 else 1) if whole else math.fmod(one, other)
    except (ZeroDivisionError, ValueError, OverflowError):
        return None


def _later(moment: Any, count: int, unit: str) -> Any:
    if unit in ("YEAR", "MONTH"):
        months = moment.year * 12 + moment.month - 1 + count * (12 if unit == "YEAR" else 1)
        year, month = divmod(months, 12)
        last = (dt.date(year + (month == 11), (month + 1) % 12 + 1, 1) - dt.timedelta(1)).day
        return moment.replace(year=year, month=month + 1, day=min(moment.day, last))
    step = dt.timedelta(**{{"DAY": "days", "HOUR": "hours", "MINUTE": "minutes", "SECOND": "seconds"}[unit]: count})
    if isinstance(moment, dt.time):
        return (dt.datetime.combine(dt.date(2000, 1, 2), moment) + step).time()
    return (moment if unit == "DAY" else _midnight(moment)) + step


def _case(
    subject: Node | None, branches: tuple[tuple[Node, Node], ...], otherwise: Node, row: Row, table: Table
) -> Any:
    kinds = [kind_of(then, table) for _, then in branches] + [kind_of(otherwise, table)]
    for when, then in branches:
        if truth(when if subject is None else ("compare", "=", subject, when, False), row, table):
            return _in_kind(any_value(then, row, table), _one_kind(kinds))
    return _in_kind(any_value(otherwise, row, table), _one_kind(kinds))


def _in_kind(value: Any, kind: str) -> Any:
    return read_moment(value, kind) if isinstance(value, str) and kind in (*DAYS, "time") else value


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
        return _read(value.strip() if kind != "text" else value, kind)
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
            return _midnight(value)
        case "time":
            return value if isinstance(value, dt.time) else value.time()
    raise AssertionError(kind)


def _read(text: str, kind: str) -> Any:
    try:
        match kind:
            case "integer":
                return int(text) if re.fullmatch(r"[+-]?\d+", text) else None
            case "number":
                return _finite(text) if re.fullmatch(r"[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?", text) else None
            case "boolean":
                return {"true": True, "false": False}.get(text.lower())
            case _:
                return read_moment(text, kind)
    except ValueError:
        return None


def _extract(part: str, value: Any) -> Any:
    if part == "QUARTER":
        return (value.month + 2) // 3
    if part == "WEEK":
        return value.isocalendar().week
    if part == "WEEKDAY":
        return value.isoweekday()
    if part == "SECOND":
        return float(Fraction(value.second * 10**6 + value.microsecond, 10**6))
    return getattr(value, part.lower())


def _across(function: str, values: list[Any], kind: str) -> Any:
    there = [value for value in values if value is not None]
    if function == "COUNT":
        return len(there)
    if not there:
        return None
    return _statistic(function, there, kind)


def _statistic(function: str, there: list[Any], kind: str) -> Any:
    """Return the sum, average, least or largest of what is there: sums are exact and rounded once."""
    if function in ("MIN", "MAX"):
        ordered = sorted(there, key=lambda value: _midnight(value) if isinstance(value, dt.date) else value)
        return ordered[0 if function == "MIN" else -1]
    total = sum((Fraction(value) for value in there), Fraction(0))
    if function == "SUM":
        return int(total) if kind == "integer" else _finite(total)
    return _finite(total / len(there))


def whole(name: str, arguments: tuple[Node, ...], row: Row, table: Table) -> Any:
    """Return a value of all rows that reach the line."""
    if name == "REPEATED":
        own = [evaluate(each, row, table) for each in arguments]
        before = table.rows[: next(at for at, other in enumerate(table.rows) if other is row)]
        return any([evaluate(each, other, table) for each in arguments] == own for other in before)
    if not arguments:
        return len(table.rows)
    there = [value for other in table.rows if (value := evaluate(arguments[0], other, table)) is not None]
    if name == "COUNT":
        return len(there)
    if not there:
        return None
    if name == "QUANTILE":
        return quantile(sorted(there), Fraction(arguments[1][1]))
    return _statistic(name, there, kind_of(arguments[0], table))


def quantile(ordered: list[Any], share: Fraction) -> Any:
    """Interpolate linearly (definition 7); of days and times take the lower neighbour."""
    place = share * (len(ordered) - 1)
    low = math.floor(place)
    if isinstance(ordered[0], dt.date | dt.time):
        return ordered[low]
    high = min(low + 1, len(ordered) - 1)
    return float(Fraction(ordered[low]) + (place - low) * (Fraction(ordered[high]) - Fraction(ordered[low])))


def _call(name: str, arguments: tuple[Node, ...], row: Row, table: Table) -> Any:
    if name in ("COALESCE", "NULLIF", "GREATEST", "LEAST"):
        return _choosing(name, arguments, row, table)
    values = [any_value(each, row, table) for each in arguments]
    if None in values:
        return None
    kinds = [kind_of(each, table) for each in arguments]
    first = values[0]
    match name:
        case "ABS":
            return abs(first)
        case "CEILING":
            return math.ceil(first)
        case "FLOOR":
            return math.floor(first)
        case "ROUND":
            return _rounded(first, values[1] if len(values) > 1 else 0)
        case "MOD":
            return _computed("%", arguments[0], arguments[1], row, table)
        case "SQRT":
            return math.sqrt(first) if first >= 0 else None
        case "POWER" | "EXP" | "LN" | "LOG10":
            return _transcendental(name, [float(value) for value in values])
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
    raise AssertionError((name, kinds))


def _choosing(name: str, arguments: tuple[Node, ...], row: Row, table: Table) -> Any:
    values = _alike(list(arguments), row, table)
    if name == "COALESCE":
        return next((value for value in values if value is not None), None)
    if name == "NULLIF":
        one, other = values
        return None if one is not None and other is not None and compared("=", one, other, False) else one
    if None in values:
        return None
    ordered = sorted(values, key=lambda value: _midnight(value) if isinstance(value, dt.date) else value)
    return ordered[-1 if name == "GREATEST" else 0]


def _rounded(value: float, digits: int) -> Any:
    with localcontext() as context:
        context.prec = 800
        digits = max(-400, min(400, digits))  # no number has a digit further from the point
        if isinstance(value, int) and digits >= 0:
            return value
        return type(value)(Decimal(repr(value)).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP))


def _transcendental(name: str, values: list[float]) -> float | None:
    with localcontext() as context:
        context.prec = 60
        x = Decimal(values[0])
        if name == "EXP":
            return _finite(x.exp()) if values[0] < 800 else None
        if name in ("LN", "LOG10"):
            return None if values[0] <= 0 else _finite(x.ln() if name == "LN" else x.log10())
        y = values[1]
        if values[0] < 0 and y != int(y):
            return None
        if values[0] == 0:
            return None if y < 0 else 1.0 if y == 0 else 0.0
        return _finite(x ** Decimal(y))


# columns


def chosen(columns: Node, table: Table) -> list[tuple[str, int]]:
    """Return the columns a list gives, under their names; named twice, one stands at its first place, unless renamed."""
    _, items, without = columns
    gone = {key for item in without for _, key in _of_item(item, table)}
    found: list[tuple[str, int]] = []
    for item in items:
        for name, key in _of_item(item, table):
            if key not in gone and (name, key) not in found:
                renamed = item[0] == "one" and item[2] is not None
                if renamed or not any(known == key for _, known in found):
                    found.append((name, key))
    return found


def _of_item(item: Node, table: Table) -> list[tuple[str, int]]:
    match item:
        case ("all",):
            return list(table.shown)
        case ("off item",):
            return []
        case ("of kind", kind):
            return [(name, key) for name, key in table.shown if table.kinds[key] == kind]
        case ("pattern", written):
            pattern = "".join({"*": ".*", "?": "."}.get(char, re.escape(char)) for char in written)
            return [(name, key) for name, key in table.shown if re.fullmatch(pattern, name)]
        case ("range", first, last):
            keys = [key for _, key in table.known]  # in the source's sequence, made ones behind
            start, end = keys.index(table.find(first)), keys.index(table.find(last))
            shown = {key: name for name, key in reversed(table.shown)}
            return [(shown[key], key) for key in keys[start : end + 1] if key in shown]
        case ("one", column, new):
            key = table.find(column)
            name = column[1] if column[0] == "name" else next(
                name for name, known in (*table.shown, *table.known) if known == key
            )  # fmt: skip
            return [(new or name, key)]
    raise AssertionError(item)
