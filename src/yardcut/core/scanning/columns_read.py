"""Which columns of the table a round looks at, found in its plan."""

from __future__ import annotations

from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.scanning.plan_parts import parts_within


def columns_read(plan: object) -> set[int]:
    """Return the numbers of all columns that a plan, plain data as it is, speaks of."""
    found: set[int] = set()
    waiting = [plan]
    while waiting:
        part = waiting.pop()
        if isinstance(part, ColumnValue):
            found.add(part.column)
        else:
            waiting += parts_within(part)
    return found
