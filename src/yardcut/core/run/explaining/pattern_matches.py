"""Which columns the patterns of a cut meet, and how that differs from the last time."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping.column_lists import is_pattern
from yardcut.core.language.meaning.chosen_columns import columns_of_item
from yardcut.core.language.meaning.scope import Lookup, Scope
from yardcut.core.language.syntax.printing import item_text
from yardcut.core.run.executing.bound_lines import BoundLine

Matches = dict[str, list[str]]
"""The names that the patterns of a line meet, by how they are written."""


def pattern_matches(line: BoundLine, above: Scope) -> Matches:
    """Return what the patterns and numbers of a line meet among the columns above it."""
    found: Matches = {}
    if line.bound is None or line.statement is None:
        return found
    for item in _items_in(line.statement.body):
        with contextlib.suppress(ListError):  # one within a piece that is switched off may meet nothing
            found[item_text(item)] = [column.name for column in columns_of_item(item, Lookup(above, ""))]
    return found


def _items_in(part: object) -> Iterator[t.ColumnItem]:
    if isinstance(part, t.OffItem):
        return
    if isinstance(part, t.ColumnItem):
        numbered = isinstance(part, t.OneColumn) and isinstance(part.column, t.ColumnNumber)
        if is_pattern(part) or numbered:
            yield part
    elif isinstance(part, tuple):
        for each in part:
            if not isinstance(each, t.Text | t.Number):  # of which a list may have very many
                yield from _items_in(each)
    elif isinstance(part, t.Node):
        for each in t.parts_of(part):
            yield from _items_in(each)


def pattern_differences(now: Matches, before: Mapping[str, Sequence[str]]) -> list[str]:
    """Say which patterns meet other columns than before; those that were not there then are not spoken of."""
    said: list[str] = []
    for pattern, names in now.items():
        if pattern not in before:
            continue
        more = [name for name in names if name not in before[pattern]]
        less = [name for name in before[pattern] if name not in names]
        parts = [f"meets {', '.join(more)} now"] * bool(more) + [f"no longer meets {', '.join(less)}"] * bool(less)
        if parts:
            said.append(f"{pattern} {' and '.join(parts)}")
    return said


def with_differences(lines: Sequence[BoundLine], above: Scope, before: Mapping[str, Sequence[str]]) -> list[BoundLine]:
    """Return lines with a hint at each pattern that meets other columns than before."""
    found: list[BoundLine] = []
    for line in lines:
        said = pattern_differences(pattern_matches(line, above), before)
        above = line.scope
        if said and line.bound is not None:
            line = replace(line, bound=replace(line.bound, hints=(*line.bound.hints, *said)))
        found.append(line)
    return found
