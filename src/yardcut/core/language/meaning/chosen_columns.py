"""Choosing, ordering and renaming columns by a column list."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.mends_of_slips import fix_in_place
from yardcut.core.language.helping.new_names import free_name
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.scope import Lookup
from yardcut.core.language.syntax.printing import item_text
from yardcut.core.values.patterns import PatternError, checked


def pattern_source(pattern: str) -> str:
    """Return the regular expression of a whole name for a pattern with ``*`` (any characters) and ``?`` (one)."""
    parts = (".*" if char == "*" else "." if char == "?" else re.escape(char) for char in pattern)
    return f"(?s:{''.join(parts)})"


def choose(
    items: tuple[t.ColumnItem, ...], without: tuple[t.ColumnItem, ...], lookup: Lookup
) -> tuple[ShownColumn, ...]:
    """Return the columns a list names, in its order; one named twice stands once, at its first place.

    Raises ``ListError`` when an item matches nothing, or two columns would have one name.
    """
    left_out = {column.number for item in without for column in columns_of_item(item, lookup)}
    chosen: list[ShownColumn] = []
    there: set[int] = set()
    came_by: list[t.ColumnItem] = []
    for item in items:
        renamed = isinstance(item, t.OneColumn) and item.new_name is not None
        for column in columns_of_item(item, lookup):
            if not renamed and (column.number in left_out or column.number in there):
                continue
            there.add(column.number)
            chosen.append(column)
            came_by.append(item)
    if not chosen:
        raise ListError("no column is left", start=items[0].span[0], end=items[-1].span[1])
    seen: dict[str, ShownColumn] = {}
    for column, item in zip(chosen, came_by, strict=True):
        if column.name in seen:
            start, end = item.span if item.span[1] else (items[0].span[0], items[-1].span[1])
            raise ListError(
                f"two columns of the result are named {column.name}", start=start, end=end,
                mend=_with_a_name(item, column.name, {each.name for each in chosen}, lookup),
            )  # fmt: skip
        seen[column.name] = column
    return tuple(chosen)


def _with_a_name(item: t.ColumnItem, name: str, taken: set[str], lookup: Lookup) -> Mend:
    """Return the mend that gives a column that would be the second of its name one of its own."""
    if not isinstance(item, t.OneColumn) or not item.span[1]:
        return Mend("rename one with AS")
    renamed = item_text(replace(item, new_name=free_name(name, taken)))
    return Mend(f"give it a name of its own: {renamed}", fix_in_place(lookup.text, *item.span, renamed))


def columns_of_item(item: t.ColumnItem, lookup: Lookup) -> list[ShownColumn]:
    """Return the columns one item means; none where it is switched off. Raises ``ListError``."""
    shown = lookup.scope.shown
    match item:
        case t.OffItem():
            return []
        case t.OneColumn(column, new_name):
            found = lookup.column(column)
            return [found if new_name is None else replace(found, name=new_name)]
        case t.AllColumns():
            return list(shown)
        case t.ColumnRange(first, last):
            return _range(item, first, last, lookup)
        case t.ColumnPattern(pattern):
            fits = _regex(pattern_source(pattern), item).fullmatch
            return _some(item, [column for column in shown if fits(column.name.encode())], pattern, lookup)
        case t.ColumnRegex(pattern):
            search = _regex(pattern, item).search
            return _some(item, [column for column in shown if search(column.name.encode())], pattern, lookup)
        case t.ColumnsOfKind(kind):
            return _some(item, [column for column in shown if column.kind.value == kind], f"kind {kind}", lookup)
    raise AssertionError(f"no choice for {type(item).__name__}")


def _regex(source: str, item: t.ColumnItem) -> Any:
    try:
        return checked(source)
    except PatternError as error:
        raise ListError(
            f"this regular expression cannot be read: {error}", start=item.span[0], end=item.span[1]
        ) from None


def _range(
    item: t.ColumnRange,
    first: t.Name | t.ColumnNumber | t.Dial,
    last: t.Name | t.ColumnNumber | t.Dial,
    lookup: Lookup,
) -> list[ShownColumn]:
    start, end = lookup.column(first).number, lookup.column(last).number
    if start > end:
        turned = item_text(replace(item, first=last, last=first))
        mend = Mend(f"turn it round: {turned}", fix_in_place(lookup.text, *item.span, turned))
        raise ListError("this range runs from right to left", start=item.span[0], end=item.span[1], mend=mend)
    by_number = {column.number: column for column in lookup.scope.shown}
    return [by_number[number] for number in range(start, end + 1) if number in by_number]


def _some(item: t.ColumnItem, matched: list[ShownColumn], what: str, lookup: Lookup) -> list[ShownColumn]:
    if matched:
        return matched
    from yardcut.core.near import nearest

    near = nearest(what.strip("*?"), lookup.scope.names())
    mend = Mend(f"the nearest names are {', '.join(near)}") if near else None
    raise ListError(f"no column matches {what}", start=item.span[0], end=item.span[1], mend=mend)
