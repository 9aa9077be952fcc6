"""Lines over no rows, whatever parts they are gone over in: nothing is drawn, ordered or put together, and nothing ends."""

from __future__ import annotations

import pytest

from helpers import run_lines
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table

GONE = [["keep species = 'elm'"], ["keep boards > 1000"], ["drop TRUE"], ["order boards", "keep grade > 'B'"]]
LINES = [
    *(f"draw {each}" for each in (
        "random 3 per species seed 1", "random 3 per species, grade seed 1", "stratified 9 per species seed 2", "top 2 by boards per species",
        "stratified 9 per species at least 1 each seed 3", "first 2 per grade", "last 2 per grade, species", "every 2 per species",
        "top 5 by boards with ties", "random 20 percent per grade seed 4", "part 2 of 60, 40 percent per species seed 5",
        "random 3 weighted by boards per species seed 6", "random 9 with replacement seed 7", "chance 0.5 seed 8", "from boards = 3 to boards = 4",
    )),
    "order species, boards DESC", "order at random seed 3", "tally COUNT(*) AS n per species", "tally MEDIAN(boards) AS m, COUNT(DISTINCT grade) AS d per species, grade",
    "tally SUM(boards) AS s per grade along species", "make share = boards / SUM(boards)", "keep boards > MEDIAN(boards)", "keep REPEATED(species, grade)",
    "make rest = boards - AVG(boards)",
]  # fmt: skip


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    """A table of three blocks of rows."""
    path = tmp_path_factory.mktemp("yard") / "packs.csv"
    rows = "".join(f"{('oak', 'ash')[row % 2]},{'AB'[row % 3 % 2]},{row % 9}\n" for row in range(2 * BLOCK_ROWS + 9))
    path.write_text(f"species,grade,boards\n{rows}")
    return open_table(path)


@pytest.mark.few(12)
@pytest.mark.parametrize("line", LINES)
def test_nothing_comes_of_nothing(table: Table, line: str) -> None:
    for number, gone in enumerate(GONE):
        left = run_lines(table, *gone, line, parts=1 + 2 * (number % 2 == 0))[-1]
        assert left.rows.count == 0
