"""Groups of a draw that are likely one are named, the commonest first."""

from __future__ import annotations

from helpers import WriteTable, run_lines
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.scanning.local import LocalRunner


def test_spellings_are_counted_over_all_groups_they_are_part_of(table_of: WriteTable) -> None:
    spellings = {"oak": (3, 3), "Oak": (4, 0), " OAK": (2, 1), "ash": (5, 5)}
    rows = [
        [species, grade, 1] for species, counts in spellings.items() for grade, n in zip("AB", counts, strict=True) for _ in range(n)
    ]  # fmt: skip
    table = table_of(["species", "grade", "n"], rows)
    (result,) = run_lines(table, "draw top 1 by n per species, grade")
    (hint,) = line_hints(result, Executor(LocalRunner(table)), CancelToken())
    assert hint.says == "groups differ only in capitals or blanks: 'oak', 'Oak', ' OAK'"
