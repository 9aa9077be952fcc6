"""The work of ``order``: keys encoded, rows sorted once."""

from __future__ import annotations

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.ranking.ordering.planning import plan_keys
from yardcut.core.ranking.ordering.sorting import sort_rows
from yardcut.core.run.executing.works.work import Tools, Work, Worked
from yardcut.core.table.rowset import RowSet


def _run(body: BoundOrder, frame: Frame, tools: Tools) -> Worked:
    rows = frame.rows
    if not body.keys and body.seed is None:
        return Worked(RowSet(rows.table_rows, rows.bits))
    plans = plan_keys(body.keys, tools.runner, tools.token, tools.progress, is_sorted=True)
    return Worked(sort_rows(rows, plans, tools.runner, tools.token, tools.progress, body.seed))


ORDER = Work(_run)
