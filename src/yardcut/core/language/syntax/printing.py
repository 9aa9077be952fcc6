"""Writing a tree in the form of the language: parsed again it is the same tree."""

from __future__ import annotations

import re
from collections.abc import Iterable

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import InSecond, Second, Where
from yardcut.core.values.formatting import formatter, quote_name, quote_text
from yardcut.core.values.temporal import format_offset

RESERVED = frozenset(
    [
        "not",
        "case",
        "true",
        "false",
        "null",
        "current_date",
        "source_row",
        "all",
        "symmetric",
        "asymmetric",
        "when",
        "off",
        "kind",
        "date",
        "timestamp",
        "time",
        "interval",
    ]
)
PLAIN_NAME = re.compile(r"[^\W\d]\w*(?:\.\w+)*\Z")
"""A name that needs no quotes, unless it is a reserved word."""

# how tightly a form binds: a part that binds less tightly than its place needs brackets
_OR, _AND, _NOT, _TRUTH, _COMPARISON, _SUM, _PRODUCT, _SIGN, _ATOM = range(9)


def name_text(name: str, quoted: bool = False) -> str:
    """Write a column's name, in double quotes where it is not a plain word or is a reserved one.

    >>> name_text('species'), name_text('Max T'), name_text('case')
    ('species', '"Max T"', '"case"')
    """
    if not quoted and PLAIN_NAME.match(name) and name.lower() not in RESERVED:
        return name
    return quote_name(name)


def _tightness(node: t.Expression) -> int:
    match node:
        case t.Or():
            return _OR
        case t.And():
            return _AND
        case t.Not():
            return _NOT
        case t.IsTruth() | t.IsNull() | t.Distinct():
            return _TRUTH
        case t.Comparison() | t.Between() | t.In() | InSecond() | t.Like() | t.LikeRegex() | t.TextTest():
            return _COMPARISON
        case t.Arithmetic(operator="+" | "-" | "||"):
            return _SUM
        case t.Arithmetic():
            return _PRODUCT
        case t.Negated():
            return _SIGN
        case _:
            return _ATOM


def expression_text(node: t.Expression, least: int = _OR) -> str:
    """Write a condition or a value, in brackets when it binds less tightly than ``least``."""
    if isinstance(node, t.Text | t.Number):  # of which a list may have very many, and which bind as tightly as can be
        return quote_text(node.value) if isinstance(node, t.Text) else node.written
    text = _expression(node)
    return f"({text})" if _tightness(node) < least else text


def _expression(node: t.Expression) -> str:
    match node:
        case t.Negated(value):
            inner = expression_text(value, _SIGN)
            return f"- {inner}" if inner.startswith("-") else f"-{inner}"
        case t.Call():
            return _call(node)
        case t.Aggregated(aggregate, where, per):
            filtered = "" if where is None else f" FILTER (WHERE {expression_text(where)})"
            return f"{_call(aggregate)}{filtered}{_per_text(per)}"
        case t.Case():
            return _case(node)
        case t.Across(function, items, without):
            return f"{function} OF ({items_text(items, without)})"
        case t.Quantified(every, items, without):
            return f"{'ALL' if every else 'ANY'} OF ({items_text(items, without)})"
        case t.Arithmetic(operator, left, right):
            level = _tightness(node)
            return f"{expression_text(left, level)} {operator} {expression_text(right, level + 1)}"
        case t.Not(condition):
            return f"NOT {expression_text(condition, _NOT)}"
        case t.And(items):
            return " AND ".join(expression_text(item, _NOT) for item in items)
        case t.Or(items):
            return " OR ".join(expression_text(item, _AND) for item in items)
        case t.Off(condition):
            return f"off ({expression_text(condition)})"
    leaf = _leaf(node)
    return _test(node) if leaf is None else leaf


def _leaf(node: t.Expression) -> str | None:
    """Write what has no parts; nothing for anything else."""
    match node:
        case t.Name(name, quoted):
            return name_text(name, quoted)
        case t.ColumnNumber(number):
            return f"#{number}"
        case t.Dial(name):
            return f":{name}"
        case t.Truth(value):
            return {True: "TRUE", False: "FALSE", None: "NULL"}[value]
        case t.Moment(_, value, int() as offset):
            return f"TIMESTAMP '{format_offset(value, offset)}'"
        case t.Moment(kind, value):
            return f"{kind.upper()} '{formatter(kind)(value)}'"
        case t.SourceRow():
            return "SOURCE_ROW"
        case t.CurrentDate():
            return "CURRENT_DATE"
        case t.Interval(count, field):
            return f"INTERVAL '{count}' {field}"
        case t.Word(word):
            return word
    return None


def _per_text(per: tuple[t.Expression, ...]) -> str:
    if not per:
        return ""
    if len(per) == 1 and isinstance(per[0], t.Name | t.ColumnNumber | t.Dial | t.Call):
        return f" PER {_expression(per[0])}"
    return f" PER ({', '.join(map(side_text, per))})"


def _call(node: t.Call) -> str:
    if node.function == "COUNT DISTINCT":
        return f"COUNT(DISTINCT {side_text(node.arguments[0])})"
    if node.function == "TRIM":
        return _trim(node.arguments)
    between = _BETWEEN.get(node.function, ())
    text = expression_text(node.arguments[0]) if node.arguments else ""
    for place, argument in enumerate(node.arguments[1:]):
        text += f"{between[place] if between else ', '}{expression_text(argument)}"
    return f"{node.function}({text})"


_BETWEEN: dict[str, tuple[str, ...]] = {
    "EXTRACT": (" FROM ",), "SUBSTRING": (" FROM ", " FOR "), "POSITION": (" IN ",), "CAST": (" AS ",),
}  # fmt: skip
"""What stands between the arguments of functions that have words there; elsewhere commas do."""


def _trim(arguments: tuple[t.Expression, ...]) -> str:
    value, side, *character = map(expression_text, arguments)
    if side == "BOTH":
        return f"TRIM({''.join(f'{each} FROM ' for each in character)}{value})"
    return f"TRIM({' '.join([side, *character])} FROM {value})"


def _case(node: t.Case) -> str:
    parts = ["CASE", *([] if node.operand is None else [side_text(node.operand)])]
    for when, then in node.branches:
        parts.append(f"WHEN {expression_text(when)} THEN {expression_text(then)}")
    if node.otherwise is not None:
        parts.append(f"ELSE {expression_text(node.otherwise)}")
    return " ".join([*parts, "END"])


def _test(node: t.Expression) -> str:
    match node:
        case t.Comparison(operator, left, right, ignoring):
            return f"{side_text(left)} {operator} {side_text(right)}{_ignoring(ignoring)}"
        case t.Between(value, low, high, symmetric, negated):
            word = "BETWEEN SYMMETRIC" if symmetric else "BETWEEN"
            return f"{side_text(value)} {_not(negated)}{word} {side_text(low)} AND {side_text(high)}"
        case t.In(value, items, negated, ignoring):
            listed = ", ".join(side_text(item) for item in items)
            return f"{side_text(value)} {_not(negated)}IN ({listed}){_ignoring(ignoring)}"
        case InSecond(values, second, columns, negated, ignoring):
            named = f" column {_bracketed(columns)}" if columns else ""
            return f"{_bracketed(values)} {_not(negated)}IN {second_text(second)}{named}{_ignoring(ignoring)}"
        case t.Like(value, pattern, escape, negated, ignoring):
            escaped = f" ESCAPE {quote_text(escape.value)}" if escape else ""
            return f"{side_text(value)} {_not(negated)}LIKE {side_text(pattern)}{escaped}{_ignoring(ignoring)}"
        case t.LikeRegex(value, pattern, flags, negated):
            flagged = f" FLAG {quote_text(flags)}" if flags else ""
            return f"{side_text(value)} {_not(negated)}LIKE_REGEX {side_text(pattern)}{flagged}"
        case t.TextTest(test, value, part, negated, ignoring):
            return f"{side_text(value)} {_not(negated)}{test} {side_text(part)}{_ignoring(ignoring)}"
        case t.IsNull(value, negated):
            return f"{expression_text(value, _TRUTH)} IS {_not(negated)}NULL"
        case t.Distinct(left, right, negated):
            return f"{expression_text(left, _TRUTH)} IS {_not(negated)}DISTINCT FROM {side_text(right)}"
        case t.IsTruth(condition, truth, negated):
            word = {True: "TRUE", False: "FALSE", None: "UNKNOWN"}[truth]
            return f"{expression_text(condition, _TRUTH)} IS {_not(negated)}{word}"
    raise AssertionError(f"no text for {type(node).__name__}")


def _bracketed(nodes: tuple[t.Expression, ...]) -> str:
    return side_text(nodes[0]) if len(nodes) == 1 else f"({', '.join(map(side_text, nodes))})"


def second_text(second: Second) -> str:
    """Write which second table is meant."""
    if second.where is Where.SOURCE:
        return name_text(second.name)
    return f"{'cut ' if second.where is Where.CUT else ''}{quote_name(second.name)}"


def side_text(node: t.Expression) -> str:
    """Write a value as it stands beside a comparison, in a list or behind a name: a condition in brackets."""
    return expression_text(node, _SUM)


def _not(negated: bool) -> str:
    return "NOT " if negated else ""


def _ignoring(ignoring: bool) -> str:
    return " IGNORING CASE" if ignoring else ""


def sort_key_text(key: t.SortKey) -> str:
    """Write one key of an order."""
    value = side_text(key.value)
    if key.off:
        value = f"off {value}" if value[0].isalpha() or value[0] in '_"#' else f"off ({value})"
    direction = " DESC" if key.descending else ""
    nulls = " NULLS FIRST" if key.nulls_first else ""
    aware = " NUMBER AWARE" if key.number_aware else ""
    listed = f" IN SEQUENCE ({', '.join(map(side_text, key.sequence))})" if key.sequence else ""
    return f"{value}{direction}{nulls}{_ignoring(key.ignoring_case)}{aware}{listed}"


def keys_text(keys: Iterable[t.SortKey]) -> str:
    """Write the keys of an order."""
    return ", ".join(sort_key_text(key) for key in keys)


def item_text(item: t.ColumnItem) -> str:
    """Write one item of a column list."""
    match item:
        case t.OneColumn(column, new_name):
            renamed = f" AS {name_text(new_name)}" if new_name is not None else ""
            return _expression(column) + renamed
        case t.ColumnRange(first, last):
            return f"{_expression(first)}..{_expression(last)}"
        case t.ColumnPattern(pattern):
            return pattern
        case t.ColumnRegex(pattern):
            return "/" + pattern.replace("/", "\\/") + "/"
        case t.ColumnsOfKind(kind):
            return f"kind {kind}"
        case t.OffItem(inner):
            return f"off {item_text(inner)}"
        case _:
            return "all"


def items_text(items: tuple[t.ColumnItem, ...], without: tuple[t.ColumnItem, ...]) -> str:
    """Write a column list, with what it leaves out."""
    rest = f" without {', '.join(map(item_text, without))}" if without else ""
    return ", ".join(map(item_text, items)) + rest
