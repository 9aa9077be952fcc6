"""The work of ``draw``: the ranked take, and why a row was not among those taken."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import shown_value
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.ranking.drawing.draws import draw_rows
from yardcut.core.run.executing.works.work import Tools, Work, Worked
from yardcut.core.table.copies import TableOfCopies
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.window import Scatter


def _run(body: BoundDraw, frame: Frame, tools: Tools) -> Worked:
    drawn = draw_rows(body, frame.rows, tools.runner, tools.token, tools.progress, tools.ranks)
    if drawn.copied is not None:
        copies, rows = TableOfCopies(frame.table, drawn.copied), RowSet(len(drawn.copied))
        if (
            frame.rows.places is not None
        ):  # the table has the source's order, the rows that of those they were drawn from
            rows = ordered(np.argsort(frame.rows.places[drawn.copied], kind="stable"), copies.rows)
        return Worked(rows, drawn.passed_over, drawn.notes, None, drawn.strata, copies, drawn.rows)
    return Worked(drawn.rows, drawn.passed_over, drawn.notes, strata=drawn.strata)


def _reason(body: BoundDraw, window: Scatter) -> str:
    draw = body.draw
    if draw.remainder:
        return "drawn, and the remainder is kept"
    if not body.keys:
        return "not drawn"
    first = body.keys[0]
    value = shown_value(first.value, window)
    if value is None:
        return f"no {first.text} to rank by"
    return f"{first.text} is {value}: not among the {draw.form} {draw.amount.written}"


DRAW = Work(_run, _reason)
