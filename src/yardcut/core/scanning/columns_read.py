"""Which columns of the table a round looks at, found in its plan."""

from __future__ import annotations

from dataclasses import fields, is_dataclass

from yardcut.core.language.meaning.bound import ColumnValue


def columns_read(plan: object) -> set[int]:
    """Return the numbers of all columns that a plan, plain data as it is, speaks of."""
    if isinstance(plan, ColumnValue):
        return {plan.column}
    if isinstance(plan, tuple):
        return set().union(*map(columns_read, plan))
    if is_dataclass(plan):
        return set().union(*(columns_read(getattr(plan, part.name)) for part in fields(plan)))
    return set()
