"""Orders: keys with directions, missing values at either end, and orders of one's own."""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from reference.functions import fold
from reference.kinds import Row, Table
from reference.reading import Node, Reader
from reference.values import any_value


@dataclass
class Key:
    """One key of an order."""

    value: Node
    descending: bool = False
    nulls_first: bool = False
    ignoring: bool = False
    aware: bool = False
    sequence: tuple[Any, ...] = ()
    off: bool = False


def sort_keys(reader: Reader) -> tuple[Key, ...]:
    """Read keys, separated by commas."""
    return tuple(key for key in reader.several(lambda: _key(reader)) if not key.off)


def _key(reader: Reader) -> Key:
    off = reader.next_is("OFF") and reader.peek(1)[1] not in ("(", ",", "") and reader.take("OFF")
    key = Key(reader.value(), off=off)
    while True:
        if word := reader.any_of("ASC", "DESC"):
            key.descending = word == "DESC"
        elif reader.take("NULLS"):
            key.nulls_first = reader.any_of("FIRST", "LAST") == "FIRST"
        elif reader.ignoring():
            key.ignoring = True
        elif reader.take("NUMBER", "AWARE"):
            key.aware = True
        elif reader.take("IN", "SEQUENCE"):
            reader.need("(")
            key.sequence = tuple(node[1] for node in reader.several(reader.value))
            reader.need(")")
        else:
            return key


class _Turned:
    """A value that compares the other way round."""

    def __init__(self, value: Any) -> None:
        self.value = value

    def __lt__(self, other: _Turned) -> bool:
        return bool(other.value < self.value)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Turned) and bool(self.value == other.value)

    __hash__ = None  # type: ignore[assignment]


def key_of(key: Key, table: Table, form: str = "") -> Callable[[Row], Any]:
    """Return what rows are ordered by; ``form`` is the direction a draw says."""
    descending = form == "top" if form else key.descending

    def ordered(row: Row) -> Any:
        value = any_value(key.value, row, table)
        if value is None:
            return (0 if key.nulls_first else 2, 0)
        if key.ignoring:
            value = fold(value)
        if key.aware:
            value = _by_numbers(value)
        if key.sequence:
            names = [fold(name) if key.ignoring else name for name in key.sequence]
            value = names.index(value) if value in names else len(names)
        if isinstance(value, dt.datetime | dt.date):
            value = value.isoformat()
        return (1, _Turned(value) if descending else value)

    return ordered


def _by_numbers(text: str) -> Any:
    """Compare the numbers in a text by their value, other characters by code point; a number stands where digits do."""
    return [
        (ord("0"), int(part)) if part.isdigit() else (ord(part), 0) for part in re.findall(r"[0-9]+|.", text, re.DOTALL)
    ]


def put_in_order(keys: tuple[Key, ...], table: Table) -> list[Row]:
    """Return the rows in order; equal rows stay as they were."""
    rows = table.rows
    for key in reversed(keys):
        rows = sorted(rows, key=key_of(key, table))
    return rows
