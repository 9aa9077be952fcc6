"""Cells that a spreadsheet would run are counted, whatever way their column is kept."""

from __future__ import annotations

import random

import pytest

from helpers import WriteTable
from yardcut.core.expressions.frame import source_frame
from yardcut.core.progress import CancelToken
from yardcut.core.writers.formulas import RUNS_AS_FORMULA, formulas_in


@pytest.mark.parametrize("different", [3, 5_000])
def test_they_are_counted_cell_by_cell(table_of: WriteTable, different: int) -> None:
    chance = random.Random(different)
    texts = [f"{chance.choice('=+-@ab')}{number}z" for number in range(different)]
    rows: list[list[object]] = [[chance.choice(texts), chance.choice(texts), number] for number in range(6_000)]
    found = formulas_in(source_frame(table_of(["a", "b", "n"], rows)), CancelToken())
    expected = [text for row in rows for text in row[:2] if str(text).startswith(RUNS_AS_FORMULA)]
    assert found.cells == len(expected)
    assert found.example in expected
    assert f"{len(expected):,} texts begin" in found.sentence()


def test_where_there_are_none_nothing_is_said(table_of: WriteTable) -> None:
    found = formulas_in(source_frame(table_of(["a", "n"], [["x=1", -5], ["", 7]])), CancelToken())
    assert (found.cells, found.sentence()) == (0, "")
