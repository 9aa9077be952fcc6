"""Rows that repeat the values of an earlier one: sorted by these values, equal rows stand side by side."""

from __future__ import annotations

import numpy as np

from yardcut.core.language.meaning.bound import BoundValue, Key
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.grouping.neighbours import begins_of_runs
from yardcut.core.ranking.ordering.planning import plan_keys
from yardcut.core.ranking.ordering.sorting import sort_rows
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet


def repeated_rows(
    values: tuple[BoundValue, ...], rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None
) -> Array:
    """Return one bit for each row of the table: set where an earlier one of ``rows`` has the same values.

    Missing equals missing. The sort is stable, so that the first of equal rows is the first in their present order.
    """
    found = np.zeros(rows.table_rows, dtype=np.bool_)
    if rows.count > 1:
        plans = plan_keys(tuple(Key(value) for value in values), runner, token, progress, is_sorted=True)
        ordered = sort_rows(rows, plans, runner, token, progress)
        found[ordered.ids(0, rows.count)[~begins_of_runs(values, ordered, runner.table, token)]] = True
    return bit.pack(found)
