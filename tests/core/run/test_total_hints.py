"""A total among the rows is told on the line that leaves it, with the line that leaves it out."""

from __future__ import annotations

import random

from helpers import WriteTable, run_lines
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table


def yard(table_of: WriteTable, *, with_totals: bool) -> Table:
    chance = random.Random(6)
    rows: list[list[object]] = []
    for day in range(30):
        boards = [chance.randint(5, 90) for _ in range(4)]
        rows += [[bay, count, day] for bay, count in zip(["N", "E", "S", ""], boards, strict=True)]
        if with_totals:
            rows.append(["ALL BAYS", sum(boards), day])
    return table_of(["bay", "boards", "day"], rows)


def totals(table: Table, line: str) -> list[Hint]:
    result = run_lines(table, line)[-1]
    hints = line_hints(result, Executor(LocalRunner(table)), CancelToken())
    return [hint for hint in hints if "looks like totals" in hint.says]


def test_it_is_told_where_it_is_left_and_only_there(table_of: WriteTable) -> None:
    table, plain = yard(table_of, with_totals=True), yard(table_of, with_totals=False)
    for line in (
        "keep bay <> 'N' OR day >= 0",
        "drop bay = 'X'",
        "draw random 2 per bay seed 1",
        "keep bay IS NULL OR bay IN ('N', 'E', 'S', 'ALL BAYS')",
    ):
        (hint,) = totals(table, line)
        assert hint.says.startswith("'ALL BAYS' looks like totals: the sum of its boards")
        assert totals(plain, line) == []
        if hint.mend:
            left = run_lines(table, hint.mend)[-1].rows
            before = run_lines(table, line)[-1].rows
            assert left.count == before.count - 30  # and no row without a bay is lost
    for line in ("keep bay = 'ALL BAYS'", "drop bay = 'ALL BAYS'", "keep day > 3", "order bay"):
        assert totals(table, line) == []
