"""Building values from the grammar's parse tree: each function builds what the rule it is listed for stands for."""

from __future__ import annotations

import re
from typing import Any

from lark import Token

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.building_expressions import Items, Rule, unquote
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import parse_date, parse_instant, parse_time, parse_timestamp


def _chain(span: t.Span, items: Items) -> t.Expression:
    found: t.Expression = items[0]
    for operator, right in zip(items[1::2], items[2::2], strict=True):
        found = t.Arithmetic(str(operator), found, right, span=_covering(found, right))
    return found


def _sign(span: t.Span, items: Items) -> Any:
    found: t.Expression = items[-1]
    for sign in reversed(items[:-1]):
        if sign == "-":
            found = t.Negated(found, span=(sign.start_pos, found.span[1]))
    return found


def _brackets(span: t.Span, items: Items) -> Any:
    return items[0]


def _off_piece(span: t.Span, items: Items) -> t.Off:
    return t.Off(items[1], span=span)


def _literal(span: t.Span, items: Items) -> t.Expression:
    token = items[0]
    if token.type == "SOURCE_ROW":
        return t.SourceRow(span=span)
    if token.type == "CURRENT_DATE":
        return t.CurrentDate(span=span)
    if token.type in ("TRUE", "FALSE", "NULL"):
        return t.Truth({"TRUE": True, "FALSE": False}.get(token.type), span=span)
    text = unquote(items[1])
    kind = Kind(token.type.lower())
    try:
        instant = parse_instant(text) if kind is Kind.TIMESTAMP else None
        if instant is not None:
            return t.Moment(Kind.INSTANT, *instant, span=span)
        value = _MOMENTS[kind][0](text)
    except ValueError as error:
        raise ListError(f"there is no day or time {text}: {error}", start=span[0], end=span[1]) from None
    if value is None:
        raise ListError(f"{token.upper()} takes the form {_MOMENTS[kind][1]}", start=span[0], end=span[1])
    return t.Moment(kind, value, span=span)


_MOMENTS = {
    Kind.DATE: (parse_date, "'2031-03-01'"), Kind.TIMESTAMP: (parse_timestamp, "'2031-03-01 14:00:00'"),
    Kind.TIME: (parse_time, "'14:00:00'"),
}  # fmt: skip


def _number(span: t.Span, items: Items) -> t.Number:
    return t.Number(str(items[0]), span=span)


def _text(span: t.Span, items: Items) -> t.Text:
    return t.Text(unquote(items[0]), span=span)


def _column(span: t.Span, items: Items) -> t.Expression:
    token = items[0]
    if token.type == "HASH":
        return t.ColumnNumber(int(token[1:]), span=span)
    if token.type == "DIAL":
        return t.Dial(token[1:], span=span)
    if token.type == "QUOTED":
        return t.Name(unquote(token), quoted=True, span=span)
    return t.Name(str(token), span=span)


def _dial(span: t.Span, items: Items) -> t.Dial:
    return t.Dial(items[0][1:], span=span)


def _call(span: t.Span, items: Items) -> t.Call:
    return t.Call(
        items[0].upper(), tuple(_word(item) if isinstance(item, Token) else item for item in items[1:]), span=span
    )


def _word(token: Token) -> t.Word:
    start = token.start_pos or 0
    return t.Word(str(token).upper(), span=(start, start + len(token)))


def _interval(span: t.Span, items: Items) -> t.Interval:
    written, field = unquote(items[1]).strip(), items[2].upper()
    start, end = span
    if field not in INTERVAL_FIELDS:
        *others, last = INTERVAL_FIELDS
        raise ListError(f"INTERVAL takes {', '.join(others)} or {last}", start=items[2].start_pos, end=end)
    if not re.fullmatch(r"[+-]?\d{1,18}", written):
        raise ListError("INTERVAL takes a whole number in quotes, as in INTERVAL '7' DAY", start=start, end=end)
    return t.Interval(int(written), field, span=span)


INTERVAL_FIELDS = ("YEAR", "MONTH", "DAY", "HOUR", "MINUTE", "SECOND")
"""What an interval can count: one field of the standard (ISO/IEC 9075-2, 10.1)."""


def _trim(span: t.Span, items: Items) -> t.Call:
    rest = items[1:]
    side = _word(rest.pop(0)) if isinstance(rest[0], Token) else t.Word("BOTH")
    return t.Call("TRIM", (rest[-1], side, *rest[:-1]), span=span)


def _position(span: t.Span, items: Items) -> t.Call:
    return t.Call("POSITION", (items[1], items[3]), span=span)


def _extract(span: t.Span, items: Items) -> t.Call:
    return t.Call("EXTRACT", (_word(items[1]), items[2]), span=span)


def _cast(span: t.Span, items: Items) -> t.Call:
    return t.Call("CAST", (items[1], t.Word(items[2].lower())), span=span)


def _case(span: t.Span, items: Items) -> t.Case:
    operand: t.Expression | None = None
    branches: list[tuple[t.Expression, t.Expression]] = []
    otherwise: t.Expression | None = None
    for item in items[1:]:
        if isinstance(item, tuple):
            branches.append(item)
        elif isinstance(item, list):
            (otherwise,) = item
        else:
            operand = item
    return t.Case(operand, tuple(branches), otherwise, span=span)


def _across(span: t.Span, items: Items) -> t.Across:
    return t.Across(items[0].upper(), *items[1:], span=span)


def _quantified(span: t.Span, items: Items) -> t.Quantified:
    return t.Quantified(items[0].upper() == "ALL", *items[1:], span=span)


def _of_group(span: t.Span, items: Items) -> t.Aggregated:
    found = items[0]
    inner = found if isinstance(found, t.Aggregated) else t.Aggregated(found)
    return t.Aggregated(inner.aggregate, inner.where, tuple(items[1:]), span=span)


def _covering(first: t.Node, last: t.Node) -> t.Span:
    return (first.span[0], last.span[1])


VALUE_RULES: dict[str, Rule] = {
    "value": _chain,
    "product": _chain,
    "sign": _sign,
    "brackets": _brackets,
    "off_piece": _off_piece,
    "literal": _literal,
    "number": _number,
    "text": _text,
    "column": _column,
    "call": _call,
    "count_distinct": lambda span, items: t.Call("COUNT DISTINCT", (items[1],), span=span),
    "filtered": lambda span, items: t.Aggregated(items[0], items[1], span=span),
    "of_group": _of_group,
    "interval": _interval,
    "extract": _extract,
    "trim": _trim,
    "substring": lambda span, items: t.Call("SUBSTRING", tuple(items[1:]), span=span),
    "position": _position,
    "cast": _cast,
    "case": _case,
    "distinct": lambda span, items: items[1],
    "when": lambda span, items: (items[0], items[1]),
    "otherwise": lambda span, items: items,
    "across": _across,
    "quantified": _quantified,
    "dial": _dial,
}
