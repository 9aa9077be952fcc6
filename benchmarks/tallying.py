"""Tallies beside what numpy does with the same numbers: weighted counts, and one sort."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.engine import Plain, run
from benchmarks.measuring import Measured, compare, seconds
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

_GROUPS = 2000


def tallying(table: Table) -> Iterator[Measured]:
    """Measure tallies of few groups and of a group a row."""
    plain = Plain(table)
    volume = np.round(np.random.default_rng(3).gamma(3, 0.4, plain.rows), 3)
    weighted = lambda: np.bincount(plain.bay, volume, _GROUPS)  # noqa: E731
    two = lambda: np.bincount(plain.bay * 4 + plain.grade, volume, 4 * _GROUPS)  # noqa: E731
    yield compare(
        "COUNT and SUM of 2,000 bays", lambda: run(table, "tally COUNT(*), SUM(volume_m3) per bay"),
        "bincount with weights", weighted, 3, 3,
    )  # fmt: skip
    yield compare(
        "COUNT and SUM of bay and grade", lambda: run(table, "tally COUNT(*), SUM(volume_m3) per bay, grade"),
        "bincount with weights", two, 5, 3,
    )  # fmt: skip
    yield compare(
        "MEDIAN of 2,000 bays", lambda: run(table, "tally MEDIAN(volume_m3) per bay"),
        "one np.sort", lambda: np.sort(volume), 2, 3,
    )  # fmt: skip
    yield compare(
        "COUNT(DISTINCT) of 2,000 bays", lambda: run(table, "tally COUNT(DISTINCT volume_m3) AS d per bay"),
        "one np.sort", lambda: np.sort(volume), 2, 3,
    )  # fmt: skip
    yield compare(
        "AVG PER species, all rows", lambda: run(table, "keep price_per_m3 > AVG(price_per_m3) PER species"),
        "the tally itself", lambda: run(table, "tally AVG(price_per_m3) per species"), 2, 3,
    )  # fmt: skip
    executor = Executor(LocalRunner(table))
    first = seconds(lambda: _last(executor, "tally COUNT(*) per bay"))
    yield Measured(
        "a second measure of the same groups", seconds(lambda: _last(executor, "tally SUM(volume_m3) per bay")),
        first + seconds(weighted), "the first, and a bincount", 1,
    )  # fmt: skip
    yield compare("a group a row", lambda: run(table, "tally COUNT(*), SUM(volume_m3) per ticket"),
                  "20 s for ten million", lambda: None, 1e9, 1)  # fmt: skip


def _last(executor: Executor, line: str) -> int:
    return list(executor.run(Cut("", (Line(line),))))[-1].rows.count
