"""What comes of a line that stays as it is, counts and more rows, moves no cursor on the card that is about it."""

from __future__ import annotations

from pathlib import Path

import pytest
from textual.widgets import OptionList

from tui.driving import Driven, drive
from yardcut.tui.cards.card import Card


@pytest.mark.parametrize(
    "line",
    [
        "keep species = 'oak' AND grade = 'A' AND knots < 9", "order species, grade DESC, knots",
        "tally COUNT(*) AS n, MAX(knots) AS most, MIN(knots) AS least per species",
    ],
    ids=["tree", "order", "tally"],
)  # fmt: skip
def test_a_result_that_comes_late_leaves_the_cursor_where_it_is(yard: Path, line: str) -> None:
    async def go(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns")
        await app.line(line)
        await app.press("tab")
        await app.press("r")
        await app.until("line 1: ")
        card = app.app.screen
        assert isinstance(card, Card)
        marked = card.query_one(OptionList)
        for _ in range(2):
            await app.press("down")
        assert marked.highlighted == 2
        await app.settled()
        card.show(card._followed.moment)  # type: ignore[attr-defined] # as when the counts of the line are there
        assert marked.highlighted == 2

    drive(yard / "yard_2031.csv", go)
