"""Groups of a draw that are likely one are named, the commonest first."""

from __future__ import annotations

from helpers import WriteTable, run_lines
from yardcut.core.run.hinting.draw_hints import draw_hints


def test_spellings_are_counted_over_all_groups_they_are_part_of(table_of: WriteTable) -> None:
    spellings = {"oak": (3, 3), "Oak": (4, 0), " OAK": (2, 1), "ash": (5, 5)}
    rows = [
        [species, grade, 1] for species, counts in spellings.items() for grade, n in zip("AB", counts, strict=True) for _ in range(n)
    ]  # fmt: skip
    (result,) = run_lines(table_of(["species", "grade", "n"], rows), "draw top 1 by n per species, grade")
    (hint,) = draw_hints(result)
    assert hint.says == "groups differ only in capitals or blanks: 'oak', 'Oak', ' OAK'"
