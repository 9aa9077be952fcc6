"""Aggregates of groups of rows: what a tally puts together, and what stands for each row of a group."""

from __future__ import annotations

import hashlib

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import Spread
from yardcut.core.run.executing.works.work import Tools
from yardcut.core.table.rowset import RowSet
from yardcut.core.tallying.aggregate_kernels import KERNELS, InGroups, Measured, constant_in
from yardcut.core.tallying.row_groups import RowGroups, group_rows


def rows_where(condition: b.BoundCondition, rows: RowSet, tools: Tools) -> RowSet:
    """Return those rows of a set for which a condition is true."""
    answers = tools.pieces.combined(condition, tools.token)
    return rows.only(answers.true)


def groups_of(values: tuple[b.BoundValue, ...], rows: RowSet, tools: Tools) -> RowGroups:
    """Return the groups of rows by some values, found once for these rows."""
    which = None if rows.bits is None and rows.order is None else rows
    key = (tools.runner.table.fingerprint, which, values)
    return tools.groups.get_or(key, lambda: group_rows(values, rows, tools.runner, tools.token, tools.progress))


def measured(aggregate: b.Aggregate, groups: RowGroups, tools: Tools) -> Measured:
    """Work out an aggregate in each group."""
    rows = groups.rows
    members = rows.bits if aggregate.where is None else rows_where(aggregate.where, rows, tools).member_bits()
    return KERNELS[aggregate.function](InGroups(aggregate, groups, members, tools.runner, tools.token, tools.progress))


def one_group(whole: b.Whole, frame: Frame, tools: Tools) -> b.BoundValue:
    """Work out a value of all rows as that of their only group."""
    groups = group_rows((), frame.rows, tools.runner, tools.token, tools.progress)
    found = measured(_aggregate(whole), groups, tools)
    value = constant_in(found.vector)
    return b.NoValue(whole.kind, "; ".join(found.notes)) if value is None else b.Constant(whole.kind, value)


def value_of_groups(whole: b.Whole, frame: Frame, before: str, tools: Tools) -> b.BoundValue:
    """Work out a value of each row's group. Of a group without any there is none."""
    groups = groups_of(whole.per, frame.rows, tools)
    found = measured(_aggregate(whole), groups, tools)
    mark = hashlib.blake2b(f"{before}{whole!r}".encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
    return Spread(mark, whole.kind, groups.numbers, found.vector, frame.table.fingerprint)


def _aggregate(whole: b.Whole) -> b.Aggregate:
    return b.Aggregate(whole.function, whole.values, whole.kind, whole.share, whole.where)
