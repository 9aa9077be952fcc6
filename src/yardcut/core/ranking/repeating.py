"""Rows that repeat the values of an earlier one: sorted by these values, equal rows stand side by side."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.values import evaluate
from yardcut.core.language.bound import BoundValue, Key
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.neighbours import same_as_before
from yardcut.core.ranking.planning import plan_keys
from yardcut.core.ranking.sorting import sort_rows
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.window import Scatter

_BLOCK_ROWS = 1 << 17


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
        for start in range(0, rows.count - 1, _BLOCK_ROWS):
            token.check()
            window = Scatter(runner.table, ordered.ids(start, min(start + _BLOCK_ROWS + 1, rows.count)))
            same = np.ones(len(window) - 1, dtype=np.bool_)
            for value in values:
                same &= same_as_before(evaluate(value, window))
            found[window.row_ids[1:][same]] = True
    return bit.pack(found)
