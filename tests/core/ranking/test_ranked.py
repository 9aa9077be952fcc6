"""The same draw of another number: the rows of a fresh one, and no row ranked again while it reaches no further."""

from __future__ import annotations

import random
from typing import Any

import pytest

from helpers import WriteTable
from thoroughness import some
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.ranking.drawing.ranked import RankRound
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

FORMS = [
    "draw top {} by price, id", "draw bottom {} by price with ties", "draw top {} by price, boards DESC per species",
    "draw random {} seed 5", "draw random {} per species seed 7", "draw random {} weighted by boards seed 3",
    "draw stratified {} per species seed 2", "draw first {}", "draw last {} per species", "draw random {} percent seed 4",
    "draw top {} by boards split ties", "draw random {} seed 5 remainder",
]  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    rng = random.Random(8)
    return table_of(
        ["id", "species", "boards", "price"],
        [
            [n, rng.choice(["oak", "ash", "yew", ""]), rng.choice(["", *range(6)]), rng.choice(["", *range(40)])]
            for n in range(900)
        ],
    )


class Counted(LocalRunner):
    """Counts the rounds that rank rows."""

    ranked = 0

    def run(self, work: Any, *given: Any) -> Any:
        self.ranked += isinstance(work, RankRound)
        return super().run(work, *given)


def left_by(executor: Executor, *lines: str) -> list[int]:
    result = list(executor.run(Cut("c", tuple(map(Line, lines)))))[-1]
    assert len(result.worked.notes) == len(set(result.worked.notes))
    return [int(row) for row in result.rows.ids(0, result.rows.count)] + [hash(result.worked.notes)]


@pytest.mark.few(8)
@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("above", some([(), ("keep boards > 1",), ("order price DESC", "drop species = 'yew'")], 2))
def test_a_nudged_draw_is_a_fresh_one(table: Table, form: str, above: tuple[str, ...]) -> None:
    kept, rng = Executor(LocalRunner(table)), random.Random(form)
    numbers = [10, 11, 12, 9, 2, 70, 71, *(rng.randint(1, 99 if "percent" in form else 400) for _ in range(8)), 1]
    for number in numbers:
        line = form.format(number)
        assert left_by(kept, *above, line) == left_by(Executor(LocalRunner(table)), *above, line), line


@pytest.mark.few(8)
@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("above", [(), ("keep boards >= 0",)])
def test_what_is_known_is_not_ranked_again(table: Table, form: str, above: tuple[str, ...]) -> None:
    runner = Counted(table)
    executor = Executor(runner)
    left_by(executor, *above, form.format(50))
    once = runner.ranked
    for number in (49, 20, 1, 50):
        left_by(executor, *above, form.format(number))
    assert runner.ranked == once
    left_by(executor, *above, form.format(51))
    once = runner.ranked
    for number in (52, 51, 49, 20, 1, 60):
        left_by(executor, *above, form.format(number))
    assert runner.ranked == once
    left_by(executor, *above, form.format(99 if "percent" in form else 600))
    left_by(executor, "keep boards >= 1", form.format(50))
    assert runner.ranked > once


def test_another_seed_key_or_direction_is_ranked_anew(table: Table) -> None:
    runner = Counted(table)
    executor = Executor(runner)
    lines = [
        "draw top 9 by price", "draw bottom 9 by price", "draw top 9 by boards", "draw top 9 by price per species",
        "draw random 9 seed 1", "draw random 9 seed 2", "draw random 9 weighted by boards seed 1", "draw first 9",
    ]  # fmt: skip
    for place, line in enumerate(lines, 1):
        left_by(executor, line)
        assert runner.ranked >= place
