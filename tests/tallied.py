"""Made-up packs and what tallies of them come to, for tests."""

from __future__ import annotations

import random
from collections.abc import Iterable, Sequence
from typing import Any

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

Row = tuple[Any, ...]
COLUMNS = ("species", "grade", "volume", "boards")


def rows_of(seed: int, count: int) -> list[Row]:
    """Return made-up packs; a fifth of every column is missing."""
    chance = random.Random(seed)

    def perhaps(value: Any) -> Any:
        return None if chance.random() < 0.2 else value

    spread = chance.choice([1, 1e-12, 1e15])
    return [
        (
            perhaps(chance.choice(["oak", "ash", "pine", "Oak", "ä"])),
            perhaps(chance.choice("ABC")),
            perhaps(round(chance.uniform(-50, 50), chance.randint(0, 3)) * spread),
            perhaps(chance.choice([chance.randint(-5, 60), chance.randint(-(2**40), 2**40)])),
        )
        for _ in range(count)
    ]


def cells(result: LineResult) -> list[Row]:
    """Return all rows of a result as texts."""
    frame = result.frame
    return list(zip(*frame.page(0, frame.rows.count, range(len(frame.columns))).cells, strict=True))


def grouped(rows: Iterable[Row], places: Sequence[int]) -> dict[Row, list[Row]]:
    """Return rows by group, in order of first appearance."""
    found: dict[Row, list[Row]] = {}
    for row in rows:
        found.setdefault(tuple(row[place] for place in places), []).append(row)
    return found


def run_with(table: Table, part_rows: int, threads: int, *lines: str) -> LineResult:
    executor = Executor(LocalRunner(table, part_rows, threads))
    return list(executor.run(Cut("", tuple(map(Line, lines))), CancelToken()))[-1]
