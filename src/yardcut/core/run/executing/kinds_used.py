"""The kinds a list relies on: written into it when it is saved, so that next month's file cannot change its meaning."""

from __future__ import annotations

from collections.abc import Iterable

from yardcut.core.cutlist.model import CutList
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.further_sources import further_of
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.sources.spec import DeclaredKind, KindLine, Selector, SubLine
from yardcut.core.table.stored_table import Table


def with_kinds_used(cut_list: CutList, table: Table) -> CutList:
    """Return a list with a ``kind`` line for the columns its lines look at, those that have one already apart.

    A file that says its kinds itself needs none: only delimited text is guessed.
    """
    if not any("delimiter" in file.form for file in table.info.files):
        return cut_list
    names = [column.name for column in table.columns]
    said = {
        place
        for line in cut_list.source_lines
        if isinstance(line, KindLine)
        for selector, _ in line.items
        for place in selector.places(names)
    }
    items = tuple(
        (Selector(names[number]), DeclaredKind(info.kind, (info.pattern,) if info.pattern else ()))
        for number in sorted(columns_used(cut_list, table) - said)
        for info in [table.columns[number].info]
    )
    return cut_list.with_source_line(KindLine(None, items)) if items else cut_list


def columns_used(cut_list: CutList, table: Table) -> set[int]:
    """Return the numbers (from 0) of the columns by whose values a list's lines work; not those that are only shown."""
    found: set[int] = set()
    for index, cut in enumerate(cut_list.cuts):
        lines = bind_cut(
            cut, table, default_seed=0, earlier=cut_list.cuts[:index], dials=cut_list.dials,
            further=further_of(cut_list),
        )  # fmt: skip
        for line in lines:
            if line.bound is not None and line.bound.body.computes:
                found |= columns_read(line.bound.body)
    return found


def agree(lines: Iterable[SubLine], table: Table) -> bool:
    """Tell whether sub-lines say no more than how a table was read anyway."""
    names = [column.name for column in table.columns]
    for line in lines:
        if not isinstance(line, KindLine) or line.file is not None:
            return False
        for selector, declared in line.items:
            for place in selector.places(names):
                info = table.columns[place].info
                if (declared.kind, declared.patterns) != (info.kind, (info.pattern,) if info.pattern else ()):
                    return False
    return True
