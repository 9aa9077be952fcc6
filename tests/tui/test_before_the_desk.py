"""What is typed between the first rows and the open table: carried out on the whole table, never on the first rows."""

from __future__ import annotations

import re
import threading
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.main.screen import MainScreen
from yardcut.tui.opened_with import Opening

ROWS = 900
PREVIEWED = re.compile(r"\b20[2-4]\b(?![-.\d])")
"""How many rows the first look at the file has, or about: a figure that is true of nothing."""


class Gate:
    """Holds a step of opening back until it is let go."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, step: str) -> None:
        self._open = threading.Event()
        whole = getattr(Opening, step)

        def waits(*given: object) -> object:
            assert self._open.wait(60)
            return whole(*given)

        monkeypatch.setattr(Opening, step, waits)

    def let_go(self) -> None:
        self._open.set()


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    write_packs(path, ROWS, 5)
    return path


@pytest.mark.long
@pytest.mark.parametrize("step", ["open", "session"])
def test_no_key_shows_a_figure_of_the_first_rows(packs: Path, step: str, monkeypatch: pytest.MonkeyPatch) -> None:
    gate = Gate(monkeypatch, step)
    actions = [a for a in ACTIONS if a.focus in (Focus.GRID, Focus.ANYWHERE) and a.id not in ("theme", "leave")]

    async def steps(app: Driven) -> None:
        await app.until("packs")
        try:
            for action in actions:
                await app.press_quickly(action.keys[0], "3", "0")
                screen = app.screen()
                assert PREVIEWED.search(screen) is None, f"{action.id}\n{screen}"
                await app.press_quickly("escape", "escape")
        finally:
            gate.let_go()
        await app.until("900")

    drive(packs, steps)


@pytest.mark.parametrize("step", ["open", "session"])
def test_a_row_typed_early_is_one_of_the_whole_table(packs: Path, step: str, monkeypatch: pytest.MonkeyPatch) -> None:
    gate = Gate(monkeypatch, step)

    async def steps(app: Driven) -> None:
        await app.until("packs")
        await app.press("g", *"850")
        gate.let_go()
        await app.until("row 850 of 900")
        await app.press("enter")
        await app.until("850    850")

    drive(packs, steps)


def test_the_last_row_typed_early_is_that_of_the_whole_table(packs: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    gate = Gate(monkeypatch, "session")

    async def steps(app: Driven) -> None:
        await app.until("packs")
        await app.press("greater_than_sign")
        gate.let_go()
        await app.until("900    900")

    drive(packs, steps)


def test_a_question_is_asked_anew_when_other_rows_come(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("900 rows")
        await app.press("g", *"30")
        await app.until("row 30 of 900")
        main = app.app.screen
        assert isinstance(main, MainScreen)
        assert main.stage.desk is not None
        main.stage.desk.edits.enter("draw first 20", -1)
        await app.until("there are 20 rows")

    drive(packs, steps)


def test_a_row_card_comes_back_to_its_row_when_other_rows_came(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("900 rows")
        await app.press("down", "down", "f")
        await app.until("row 3, 3 in the source")
        await app.press("n")
        await app.until("row 4, 4 in the source")
        main = app.app._main  # type: ignore[attr-defined]
        main.stage.desk.edits.enter("draw last 898", -1)
        await app.pause(0.5)
        await app.press("escape")
        await app.until("898 rows left")
        assert main.stage.grid.viewport.row_position == 1

    drive(packs, steps)


def test_actions_on_rows_need_the_whole_table() -> None:
    by_id = {action.id: action for action in ACTIONS}
    assert all(by_id[name].need is not Need.NOTHING for name in ("go", "last-row", "row-card"))


@pytest.mark.long
def test_a_line_being_written_is_tried_anew_when_the_table_is_another(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("900 rows")
        await app.press("R")
        await app.press("w")
        await app.type("draw first 95 percent")
        await app.until("(as line 1")
        write_packs(packs, 400, 6)
        app.app._main.parts.reading.read_again()  # type: ignore[attr-defined]
        await app.until("380 of 400")

    drive(packs, steps)
