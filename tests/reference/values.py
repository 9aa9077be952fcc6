"""What a value is, row by row: three-valued conditions, arithmetic, functions, values of all rows."""

from __future__ import annotations

import datetime as dt
import math
import re
from decimal import Decimal
from fractions import Fraction
from typing import Any

from reference.functions import (
    as_text,
    called,
    cast,
    compared,
    extracted,
    finite,
    fold,
    is_like,
    later,
    midnight,
    quantile,
    read_moment,
    read_text,
    spread,
    statistic,
)  # fmt: skip
from reference.kinds import DAYS, NUMERIC, Row, Table, chosen, kind_of, one_kind
from reference.reading import Node


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
    if node[0] == "in second":
        return _is_there(node, row, table)
    if node[0] in ("compare", "between", "in", "like", "regex", "part"):
        if node[_side_of(node)][0] == "quantified":
            return _quantified(node, _side_of(node), row, table)
        return _test(node, row, table)
    value = evaluate(node, row, table)
    assert value is None or isinstance(value, bool)
    return value


def _is_there(node: Node, row: Row, table: Table) -> bool | None:
    """Tell whether a row's values stand in a second table; a missing one there never matches, one here is unknown."""
    _, left, where, named, ignoring, negated = node
    sides = list(left[1:]) if left[0] == "row" else [left]
    own = [any_value(each, row, table) for each in sides]
    if None in own:
        return None
    other = table.seconds[where]
    if isinstance(other, list):
        kind = kind_of(left, table)
        there = [[text if kind == "text" else read_text(text, kind)] for text in other]
    else:
        keys = [other.find(("name", name)) for name in named or [side[1] for side in sides]]
        there = [[each.values[key] for key in keys] for each in other.rows]
    found = any(
        all(one is not None and compared("=", one, mine, ignoring) for one, mine in zip(each, own, strict=True))
        for each in there
    )
    return found is not negated


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
        return read_text(other[1], kind) is not None
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
            return None if text is None or wanted is None else is_like(text, wanted, escape, ignoring)
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


def evaluate(node: Node, row: Row, table: Table) -> Any:
    """Return a value for a row, of the kind its expression has; ``None`` where there is none."""
    value = _evaluate(node, row, table)
    if value is None or node[0] in ("value", "literal"):
        return float(value) if isinstance(value, Decimal) else value
    kind = kind_of(node, table)
    if kind == "number":
        return finite(value)
    if kind == "integer":
        return value if -(2**63) <= value < 2**63 else None
    return midnight(value) if kind == "timestamp" else value


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
            return None if value is None else extracted(part, value)
        case ("trim", side, character, inner):
            text = evaluate(inner, row, table)
            if text is None:
                return None
            trim = {"BOTH": text.strip, "LEADING": text.lstrip, "TRAILING": text.rstrip}[side]
            return trim(character) if character else trim()
        case ("across", function, columns):
            return _across(function, [row.values[key] for _, key in chosen(columns, table)], kind_of(node, table))
        case ("whole", name, arguments):
            return repeated(arguments, row, table) if name == "REPEATED" else whole(name, arguments, table.rows, table)
        case ("measure", name, arguments, distinct, where, per):
            return whole(name, arguments, _counted(where, per, row, table), table, distinct=distinct)
        case ("call", name, arguments):
            return _call(name, arguments, row, table)
    return truth(node, row, table)


_CONDITIONS = (
    "or",
    "and",
    "not",
    "not piece",
    "is",
    "distinct",
    "compare",
    "between",
    "in",
    "like",
    "regex",
    "part",
    "in second",
)


def any_value(node: Node, row: Row, table: Table) -> Any:
    """Return the value of something that may be a condition."""
    return truth(node, row, table) if node[0] in _CONDITIONS else evaluate(node, row, table)


def _computed(operator: str, left: Node, right: Node, row: Row, table: Table) -> Any:
    one = evaluate(left, row, table)
    if right[0] == "interval":
        try:
            return None if one is None else later(one, right[1] if operator == "+" else -right[1], right[2])
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
        apart = midnight(one) - midnight(other)
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


def _case(
    subject: Node | None, branches: tuple[tuple[Node, Node], ...], otherwise: Node, row: Row, table: Table
) -> Any:
    kinds = [kind_of(then, table) for _, then in branches] + [kind_of(otherwise, table)]
    for when, then in branches:
        if truth(when if subject is None else ("compare", "=", subject, when, False), row, table):
            return _in_kind(any_value(then, row, table), one_kind(kinds))
    return _in_kind(any_value(otherwise, row, table), one_kind(kinds))


def _in_kind(value: Any, kind: str) -> Any:
    return read_moment(value, kind) if isinstance(value, str) and kind in (*DAYS, "time") else value


def _across(function: str, values: list[Any], kind: str) -> Any:
    there = [value for value in values if value is not None]
    if function == "COUNT":
        return len(there)
    if not there:
        return None
    return statistic(function, there, kind)


def _counted(where: Node | None, per: tuple[Node, ...], row: Row, table: Table) -> list[Row]:
    """Return the rows an aggregate is of: those of the row's group, where a condition is true."""
    own = [any_value(each, row, table) for each in per]
    return [
        other
        for other in table.rows
        if (not per or [any_value(each, other, table) for each in per] == own)
        and (where is None or is_off(where) or truth(where, other, table) is True)
    ]


def repeated(arguments: tuple[Node, ...], row: Row, table: Table) -> bool:
    """Tell whether a row before has the same values."""
    own = [evaluate(each, row, table) for each in arguments]
    before = table.rows[: next(at for at, other in enumerate(table.rows) if other is row)]
    return any([evaluate(each, other, table) for each in arguments] == own for other in before)


def whole(name: str, arguments: tuple[Node, ...], rows: list[Row], table: Table, *, distinct: bool = False) -> Any:
    """Return what some rows come to."""
    if not arguments:
        return len(rows)
    there = [value for other in rows if (value := any_value(arguments[0], other, table)) is not None]
    if distinct:
        there = list(dict.fromkeys(there))
    if name == "COUNT":
        return len(there)
    if not there:
        return None
    if name in ("QUANTILE", "MEDIAN"):
        return quantile(sorted(there), Fraction(arguments[1][1]) if name == "QUANTILE" else Fraction(1, 2))
    if name in ("VAR_SAMP", "STDDEV_SAMP"):
        return spread(there, is_root=name == "STDDEV_SAMP")
    return statistic(name, there, kind_of(arguments[0], table))


def _call(name: str, arguments: tuple[Node, ...], row: Row, table: Table) -> Any:
    if name in ("COALESCE", "NULLIF", "GREATEST", "LEAST"):
        return _choosing(name, arguments, row, table)
    values = [any_value(each, row, table) for each in arguments]
    if None in values:
        return None
    return _computed("%", arguments[0], arguments[1], row, table) if name == "MOD" else called(name, values)


def _choosing(name: str, arguments: tuple[Node, ...], row: Row, table: Table) -> Any:
    values = _alike(list(arguments), row, table)
    if name == "COALESCE":
        return next((value for value in values if value is not None), None)
    if name == "NULLIF":
        one, other = values
        return None if one is not None and other is not None and compared("=", one, other, False) else one
    if None in values:
        return None
    ordered = sorted(values, key=lambda value: midnight(value) if isinstance(value, dt.date) else value)
    return ordered[-1 if name == "GREATEST" else 0]
