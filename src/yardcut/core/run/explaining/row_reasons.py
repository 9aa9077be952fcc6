"""Why a line removed a row."""

from __future__ import annotations

import numpy as np

from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.executing.works.works_of_lines import WORKS
from yardcut.core.table.window import Scatter


def reason(result: LineResult, row_id: int) -> str:
    """Say in a phrase why a row is in a line's offcut: what decided, with the row's own values."""
    bound = result.line.bound
    if bound is None:
        return ""
    window = Scatter(result.before.table, np.array([row_id], dtype=np.int64))
    return WORKS[type(bound.body)].reason(bound.body, window)
