"""The core's operations beside bare numpy on the same values."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import numpy.typing as npt

from benchmarks.measuring import Measured, PeakMemory, compare
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

Array = npt.NDArray[Any]
_GROUPS = 2000


def run(table: Table, *lines: str) -> int:
    """Run lines without any result kept from before; return the rows left."""
    results = list(Executor(LocalRunner(table), limit_bytes=0).run(Cut("", tuple(map(Line, lines)))))
    for line in bind_cut(Cut("", tuple(map(Line, lines))), table):
        if line.error is not None:
            raise line.error
    return results[-1].rows.count


class Plain:
    """The benchmark columns as plain arrays in memory, for the yardsticks."""

    def __init__(self, table: Table) -> None:
        random = np.random.default_rng(7)
        rows = table.rows
        self.rows = rows
        self.moisture = random.normal(16, 4, rows)
        self.price = np.round(random.lognormal(6.4, 0.3, rows) * 2) / 2
        self.length = random.integers(1800, 9000, rows)
        self.grade = random.integers(0, 4, rows).astype(np.int8)
        self.bay = random.integers(0, _GROUPS, rows).astype(np.int16)
        self.days = random.integers(0, 1090, rows).astype(np.int32)

    def condition(self) -> int:
        """Do what the compound condition does, on whole arrays."""
        kept = (self.moisture <= 18) & ((self.length >= 2400) | (self.price < 500)) & (self.grade == 0)
        return int(np.count_nonzero(kept))

    def counts(self) -> Array:
        """Count the rows of each group, in chunks."""
        total = np.zeros(_GROUPS, dtype=np.int64)
        for start in range(0, self.rows, 1 << 18):
            total += np.bincount(self.bay[start : start + (1 << 18)], minlength=_GROUPS)
        return total


_KEYS = "grade, felled_on DESC, moisture_pct NULLS FIRST"
CONDITION = "keep moisture_pct <= 18 AND (length_mm >= 2400 OR price_per_m3 < 500) AND grade = 'A'"


def operations(table: Table) -> Iterator[Measured]:
    """Measure each operation of the first cut."""
    plain = Plain(table)
    yield compare("compound condition", lambda: run(table, CONDITION), "bare numpy", plain.condition, 0.9)
    yield compare("top 1,000", lambda: run(table, "draw top 1000 by price_per_m3"), "one max()", plain.price.max, 10)
    yield compare(
        "top 3 of each of 2,000 bays", lambda: run(table, "draw top 3 by price_per_m3 per bay"),
        "bincount in chunks", plain.counts, 8,
    )  # fmt: skip
    random = np.random.default_rng(1)
    yield compare(
        "sample of 100,000", lambda: run(table, "draw random 100000 seed 7"), "Generator.random",
        lambda: random.random(table.rows), 1.3,
    )  # fmt: skip
    yield compare(
        "stratified over 2,000 bays", lambda: run(table, "draw stratified 100000 per bay seed 7"), "Generator.random",
        lambda: random.random(table.rows), 3.5,
    )  # fmt: skip
    yield compare(
        "weighted, 100,000", lambda: run(table, "draw random 100000 weighted by price_per_m3 seed 7"),
        "-log(random) / weight", lambda: -np.log(random.random(table.rows)) / plain.price, 4,
    )  # fmt: skip
    yield compare(
        "first 100 of a three-key order", lambda: run(table, f"order {_KEYS}", "draw first 100"), "one max()",
        plain.price.max, 30,
    )  # fmt: skip
    # a lexsort of 10 million rows takes seconds; a third as fast may pass in this first part, at half the final ratio
    yield compare(
        "three-key sort", lambda: run(table, f"order {_KEYS}"), "np.lexsort",
        lambda: np.lexsort((plain.moisture, -plain.days, plain.grade)), 1 / 5, tries=3,
    )  # fmt: skip


def memory(table: Table) -> Iterator[str]:
    """Measure the anonymous memory of conditions and draws, and of sorting."""
    for name, lines, hold in (
        (
            "conditions and draws",
            [(CONDITION,), ("draw top 1000 by price_per_m3",), ("draw random 1000 per bay seed 7",)],
            400,
        ),
        ("sorting", [("order grade, felled_on DESC, moisture_pct",), ("order ticket DESC",)], 1000),
    ):
        with PeakMemory() as peak:
            for some in lines:
                run(table, *some)
        megabytes = peak.bytes / 1e6
        verdict = "holds" if megabytes <= hold else "MISSES"
        yield f"anonymous memory, {name:24} {megabytes:6.0f} MB  {verdict} {hold} MB"
