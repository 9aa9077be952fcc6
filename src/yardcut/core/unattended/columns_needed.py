"""Which columns of a table a cut looks at or leaves: no others need come from where it stands."""

from __future__ import annotations

import re
from collections.abc import Sequence

from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.unattended.columns_enough import named_in

_BY_PLACE = re.compile(r"#|\w\*|\*\w|\.\.|/\S+/|\bkind\b|\bfrom\b", re.IGNORECASE)
"""What names columns by their place, a pattern or their kind, or begins from another cut: then all columns are needed,
and so they are where a text holds any of it.
"""


def columns_needed(lines: Sequence[BoundLine], names: Sequence[str], key: Sequence[str]) -> list[str]:
    """Return the names of the columns that some lines look at, that are left by the last, or that make the key.

    All of them are where a line is wrong, or tells only when it runs which columns there are.
    """
    every = list(names)
    if not lines or any(line.error is not None or line.later is not None for line in lines):
        return every
    if any(_BY_PLACE.search(line.line.text) for line in lines):
        return every
    last = lines[-1].scope
    numbers = {number for shown in last.shown if last.leads_to_source for number in columns_of(shown.value)}
    for line in lines:
        if line.bound is not None:
            numbers |= columns_read(line.bound.body)
    needed = {names[number] for number in numbers if number < len(names)} | set(key)
    needed |= named_in([line.line.text for line in lines], names)  # to leave a column out it has to be there
    return [name for name in names if name in needed] or every
