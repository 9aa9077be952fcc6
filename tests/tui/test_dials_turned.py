"""A number that is a dial is turned by the keys that turn numbers, wherever it stands; an unused one shows values."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec


@pytest.fixture
def packs(tmp_path: Path) -> SourceSpec:
    write_packs(tmp_path / "packs.csv", 120, 4)
    return SourceSpec(("packs.csv",), (), tmp_path)


@pytest.mark.long
def test_the_dial_in_the_place_of_a_number_is_turned(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("dial best = 20 from 5 to 60", "the dial best")
        await app.line("draw top :best by price")
        await app.until("20 rows left")
        await app.press("tab", "end", "plus", "plus")
        await app.until("22 rows left", ":best = 22")
        await app.press("minus")
        await app.until("21 rows left")
        await app.press("d", "plus", "asterisk")  # on the card of the draw too
        await app.until("27 rows")
        await app.press("escape", "u")  # several turns of one dial are one edit
        await app.until("20 rows left")
        desk = app.app._main.stage.desk  # type: ignore[attr-defined]
        assert desk.now.cut.lines[0].text == "draw top :best by price"

    drive(packs, steps)


def test_a_number_before_a_dial_is_the_number_that_moves(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("dial most = 50 from 5 to 60", "the dial most")
        await app.line("keep boards BETWEEN 20 AND :most")
        await app.press("tab", "end", "plus")
        await app.until("boards BETWEEN 21 AND :most")

    drive(packs, steps)


@pytest.mark.long
def test_a_dial_that_no_line_uses_lists_the_values_of_its_column(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep grade = 'A'")
        await app.line("dial woods = 'oak' from column species", "the dial woods")
        await app.press("colon", "enter")
        screen = await app.until("no line uses it yet: of the", "rows the cut leaves")
        assert "larch" in screen
        await app.press("escape", "escape")

    drive(packs, steps)
