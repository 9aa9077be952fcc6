"""The lines of a cut, from top to bottom."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from reference.draws import Draw, rank_of
from reference.kinds import Row, Table, chosen, kind_of
from reference.orders import put_in_order, sort_keys
from reference.reading import Node, Reader
from reference.seconds import brought
from reference.tallies import tallied
from reference.values import any_value, evaluate, is_off, truth


def run(lines: Sequence[str], table: Table, cuts: Mapping[str, Sequence[str]] | None = None) -> Table:
    """Return what the lines leave of a table."""
    for line in lines:
        table = run_line(line, table, cuts or {})
    return table


def run_line(line: str, table: Table, cuts: Mapping[str, Sequence[str]]) -> Table:
    """Return what one line leaves."""
    reader = Reader(line, table.dials)
    if reader.next_is("OFF"):
        return table
    left = _line(reader, table, cuts)
    assert reader.is_done or reader.tokens[0][1].lower() in ("look", "save"), (line, reader.tokens[reader.at :])
    return left


def _line(reader: Reader, table: Table, cuts: Mapping[str, Sequence[str]]) -> Table:
    verb = reader.token()[1].lower()
    match verb:
        case "keep" | "drop":
            condition = _with_wholes(reader.condition(), table)
            if is_off(condition):
                return table
            answers = [(row, truth(condition, row, table)) for row in table.rows]
            return replace(table, rows=[row for row, answer in answers if (answer is True) is (verb == "keep")])
        case "make":
            return _make(reader, table)
        case "order":
            return replace(table, rows=_order(reader, table))
        case "draw":
            return replace(table, rows=Draw(reader, table).rows())
        case "bring":
            return brought(reader, table)
        case "tally":
            return tallied(reader, table)
        case "columns":
            return replace(table, shown=chosen(reader.column_list(), table))
        case "from":
            _, written = reader.token()
            other = run(cuts[written[1:-1]], table, cuts)
            return replace(other, shown=list(other.known))
        case "look" | "save":
            return table
    raise AssertionError(verb)


def _order(reader: Reader, table: Table) -> list[Row]:
    if reader.take("AS", "READ"):
        return sorted(table.rows, key=lambda row: (row.source_row, row.copies))
    if reader.take("AT", "RANDOM"):
        seed = int(reader.token()[1]) if reader.take("SEED") else 0
        return sorted(table.rows, key=lambda row: (rank_of(row, seed), row.source_row, row.copies))
    return put_in_order(sort_keys(reader), table)


def _make(reader: Reader, table: Table) -> Table:
    items = reader.several(lambda: _item(reader))
    rows = [Row(dict(row.values), row.source_row, row.copies) for row in table.rows]
    table = replace(table, rows=rows, shown=list(table.shown), known=list(table.known), kinds=dict(table.kinds))
    for name, node in items:
        key = max(table.kinds) + 1
        table.kinds[key] = kind_of(node, table)
        found = [any_value(node, row, table) for row in table.rows]
        for row, value in zip(table.rows, found, strict=True):
            row.values[key] = value
        table.shown, table.known = _put(table.shown, name, key), _put(table.known, name, key)
        table.remembered.clear()
    return table


def _item(reader: Reader) -> tuple[str, Node]:
    name = reader.token()[1]
    reader.need("=")
    return name.strip('"'), reader.condition()


def _put(columns: list[tuple[str, int]], name: str, key: int) -> list[tuple[str, int]]:
    if any(known == name for known, _ in columns):
        return [(known, key if known == name else old) for known, old in columns]
    return [*columns, (name, key)]


def _with_wholes(node: Any, table: Table) -> Any:
    """Put values of all rows in their places, once for all rows; REPEATED is one for each."""
    if isinstance(node, tuple):
        is_one = node and ((node[0] == "whole" and node[1] != "REPEATED") or (node[0] == "measure" and not node[5]))
        if is_one and table.rows:
            return ("value", evaluate(node, table.rows[0], table), kind_of(node, table))
        return tuple(_with_wholes(part, table) for part in node)
    return node
