"""Keeping and dropping beside their yardsticks: an edited bound, pieces switched, texts, and lists of values."""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from statistics import median

import numpy as np

from benchmarks.measuring import Measured, compare, seconds
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import source_frame
from yardcut.core.profile.distinct import distinct_values
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.tree_counts import branches
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Span

_SIX = (
    "keep moisture_pct <= 18 AND (length_mm >= 2400 OR price_per_m3 < 500) AND grade = 'A' "
    "AND boards > 10 AND NOT volume_m3 > 2.5"
)


class _SixPlain:
    """The same pieces on plain arrays in memory."""

    def __init__(self, rows: int) -> None:
        random = np.random.default_rng(7)
        self.moisture, self.price = random.normal(16, 4, rows), np.round(random.lognormal(6.4, 0.3, rows) * 2) / 2
        self.length, self.grade = random.integers(1800, 9000, rows), random.integers(0, 4, rows).astype(np.int8)
        self.boards, self.volume = random.integers(4, 120, rows), random.gamma(3, 0.4, rows)

    def condition(self) -> int:
        """Count the rows that pass all six."""
        kept = (self.moisture <= 18) & ((self.length >= 2400) | (self.price < 500)) & (self.grade == 0)
        return int(np.count_nonzero(kept & (self.boards > 10) & ~(self.volume > 2.5)))


def _result(executor: Executor, line: str) -> LineResult:
    return list(executor.run(Cut("", (Line(line),))))[-1]


_PART = "4242"


def _lines_of(table: Table, name: str, path: Path) -> None:
    """Write a column's texts, one a line, for ``grep``."""
    frame = source_frame(table)
    column = next(each for each in frame.columns if each.name == name)
    with open(path, "w", encoding="utf-8") as file:
        for start in range(0, table.rows, 1 << 18):
            window = Span(table, start, min(table.rows, start + (1 << 18)))
            file.write("\n".join(text or "" for text in evaluate(column.value, window).texts()) + "\n")


def _grep(path: Path) -> int:
    return int(subprocess.run(["grep", "-c", _PART, str(path)], capture_output=True, check=True).stdout)


def _timed(executor: Executor, lines: Sequence[str]) -> list[float]:
    return [seconds(partial(_result, executor, line)) for line in lines]


def filtering(table: Table) -> Iterator[Measured]:
    """Measure what building a condition asks for; where the yardstick is a limit in seconds it is the limit itself."""
    plain = _SixPlain(table.rows)

    def fresh() -> Executor:
        return Executor(LocalRunner(table), limit_bytes=0)

    yield compare(
        "six pieces, the first time", lambda: _result(fresh(), _SIX).rows.count, "bare numpy", plain.condition, 0.65
    )

    executor = Executor(LocalRunner(table))
    _result(executor, _SIX)
    bounds = [_SIX.replace("18", str(bound)) for bound in range(11, 18)]
    yield Measured("one bound edited", median(_timed(executor, bounds)), 0.15, "the limit itself", 1)

    result = _result(executor, _SIX)
    branches(result, executor, CancelToken())
    edits = [_SIX.replace(" AND ", f" {word} ", place) for word in ("OR", "AND NOT") for place in (1, 2)]
    yield Measured("pieces negated and regrouped", median(_timed(executor, edits)), 0.02, "the limit itself", 1)
    again = [seconds(partial(branches, _result(executor, line), executor, CancelToken())) for line in edits]
    yield Measured("what each part of the tree does", median(again), 0.1, "the limit itself", 1)

    yield compare(
        "a text of few values", lambda: _result(fresh(), "keep grade = 'A'").rows.count,
        "an integer of the same width", lambda: int(np.count_nonzero(plain.grade == 0)), 20,
    )  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "tickets.txt"
        _lines_of(table, "ticket", path)
        yield compare(
            "CONTAINS in free texts", lambda: _result(fresh(), f"keep ticket CONTAINS '{_PART}'").rows.count,
            "grep -c", lambda: _grep(path), 1.3,
        )  # fmt: skip
    rows = source_frame(table).rows
    for column in source_frame(table).columns:
        work = partial(distinct_values, column.value, rows, LocalRunner(table), CancelToken())
        yield Measured(f"the values of {column.name}", seconds(work), 0.5, "the limit itself", 1)
