"""The first rows of an order, without putting all others in order too."""

from __future__ import annotations

import numpy as np

from yardcut.core.language.meaning.bound import Key
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.ordering.planning import plan_keys
from yardcut.core.ranking.taking import Ranking, TakeRound
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.rowset import RowSet, ordered


def first_in_order(
    keys: tuple[Key, ...], count: int, rows: RowSet, runner: Runner, token: CancelToken,
    progress: Progress | None = None,
) -> RowSet:  # fmt: skip
    """Return the first ``count`` rows in the order of some keys: those that sorting and taking the first gives."""
    plans = plan_keys(keys, runner, token, progress)
    if progress is not None:
        progress.begin("ranking", runner.table.rows)
    take = TakeRound(np.array([count]), Ranking.KEYS, rows.bits, rows.places, plans)
    return ordered(runner.run(take, token, progress).row_ids, rows.table_rows)
