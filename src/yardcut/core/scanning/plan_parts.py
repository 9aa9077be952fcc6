"""What a plan is made of, gone through without what cannot matter: a list of ten thousand values holds no column."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields, is_dataclass
from decimal import Decimal
from functools import cache

from yardcut.core.language.meaning.bound import Constant, Whole
from yardcut.core.language.meaning.bound_known import Constants, Flags, Spread
from yardcut.core.language.meaning.bound_second import Brought, Listed
from yardcut.core.language.syntax_trees import Node
from yardcut.core.values.kinds import Kind

_LEAVES = (Constant, Constants, Node, Kind, Decimal, str, bytes, int, float, type(None))
"""Values as they are, and what a line says as it was written."""


def parts_within(plan: object) -> list[object]:
    """Return what a plan, plain data as it is, consists of: the entries of a tuple, the fields of anything else."""
    if isinstance(plan, tuple):
        parts: Iterable[object] = plan
    else:
        parts = [getattr(plan, name) for name in _names(type(plan))]  # type: ignore[arg-type] # as below
    return [part for part in parts if not is_leaf(part)]


def is_leaf(plan: object) -> bool:
    """Tell whether a plan consists of nothing else that could be of interest."""
    return _are_leaves(type(plan))  # type: ignore[arg-type] # classes can be told apart


@cache
def _are_leaves(kind: type) -> bool:
    return issubclass(kind, _LEAVES) or not (issubclass(kind, tuple) or is_dataclass(kind))


@cache
def _names(kind: type) -> tuple[str, ...]:
    return tuple(part.name for part in fields(kind)) if is_dataclass(kind) else ()


def looks_at_other_rows(plan: object) -> bool:
    """Tell whether something goes by other rows than the one it is worked out for, or by a second table."""
    if isinstance(plan, Whole | Brought | Listed | Flags | Spread):
        return True
    return any(map(looks_at_other_rows, parts_within(plan)))
