"""Rows, tables, names of columns, and the kinds of values."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass, field
from decimal import Decimal
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
    seconds: dict[str, Any] = field(default_factory=dict)
    """Second tables by their paths: tables, or lists of texts."""
    remembered: dict[int, tuple[Node, str]] = field(default_factory=dict, init=False)
    """Kinds of what was asked for before, by the node's identity; of no use once a name means another column."""

    def find(self, node: Node) -> int:
        """Return the column a name means: the shown one first, else the hidden one."""
        if node[0] == "number of column":  # of the source's columns, and behind them those that lines made
            return int(self.known[int(node[1]) - (node[1] > 0)][1])
        if node[0] == "dial":
            return self.find(("name", self.dials[node[1]]))
        return int(next(key for name, key in (*self.shown, *self.known) if name == node[1]))


def kind_of(node: Node, table: Table) -> str:
    """Return the kind of a value."""
    if id(node) not in table.remembered:
        table.remembered[id(node)] = node, _kind_of(node, table)  # the node is held, or its number might be another's
    return table.remembered[id(node)][1]


def _kind_of(node: Node, table: Table) -> str:
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
            return one_kind([kind_of(then, table) for _, then in branches] + [kind_of(otherwise, table)])
        case ("across", function, columns):
            return _kind_across(function, [table.kinds[key] for _, key in chosen(columns, table)])
        case ("call" | "whole", name, arguments) | ("measure", name, arguments, *_):
            return _kind_of_call(name, [kind_of(each, table) for each in arguments])
    return "boolean"


def one_kind(kinds: list[str]) -> str:
    found = [kind for kind in kinds if kind != "nothing"]
    days = next((kind for kind in found if kind in (*DAYS, "time")), None)
    if "number" in found:
        return "number"
    return "timestamp" if "timestamp" in found else days or found[0]


def _kind_across(function: str, kinds: list[str]) -> str:
    if function == "COUNT":
        return "integer"
    if function in ("MIN", "MAX"):
        return one_kind(kinds)
    return "integer" if function == "SUM" and set(kinds) == {"integer"} else "number"


def _kind_of_call(name: str, kinds: list[str]) -> str:
    match name:
        case "COUNT" | "CHAR_LENGTH" | "POSITION":
            return "integer"
        case "SQRT" | "POWER" | "EXP" | "LN" | "LOG10" | "AVG" | "VAR_SAMP" | "STDDEV_SAMP":
            return "number"
        case "UPPER" | "LOWER" | "SUBSTRING":
            return "text"
        case "REPEATED":
            return "boolean"
        case "DATE_FROM":
            return "date"
        case "QUANTILE" | "MEDIAN":
            return "number" if kinds[0] in NUMERIC else kinds[0]
        case "ROUND" | "NULLIF" | "CEILING" | "FLOOR" | "ABS" | "SUM" | "MIN" | "MAX":
            return kinds[0]
    return one_kind(kinds)  # MOD, GREATEST, LEAST, COALESCE


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
