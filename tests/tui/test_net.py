"""An error nobody foresaw, wherever it comes up: told on a card, logged without a cell, and the app goes on."""

from __future__ import annotations

import logging
from pathlib import Path

import pytest

from thoroughness import some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.cutlist.list_edits import ListEditing
from yardcut.tui.cards.looking.row import RowCard
from yardcut.tui.desk.column_looks import Looks
from yardcut.tui.main.looking import Looking
from yardcut.tui.main.prompting import going
from yardcut.tui.main.prompting import writing_lines as writing
from yardcut.tui.main.prompting.writing_lines import Writing
from yardcut.tui.main.showing import Showing
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.widgets.grid.grid import Grid

FAULT = "a fault of Yard Cut"
SECRET = "oak-secret-cell"

PLACES: dict[str, tuple[object, str, tuple[str, ...]]] = {
    "a key in the table": (going, "columns_by_part", ("g", "b")),
    "a job's result": (Looking, "look", ("down",)),
    "a job": (Looks, "summary", ("right",)),
    "drawing the table": (Grid, "_now", ("down",)),
    "a trial": (writing, "try_line", ("w", *"keep grade = 'A'".replace(" ", "_").split("_"))),
    "completing": (Writing, "_options", ("w", "k")),
    "mounting a card": (RowCard, "on_mount", ("f",)),
    "closing a card": (RowCard, "dismiss", ("f", "escape")),
    "a mouse": (Grid, "on_click", ()),
    "a key on the list": (ListEditing, "switch_line", ("tab", "x")),
    "an edit": (ListEditing, "enter", ("full_stop",)),
    "showing": (Showing, "show_work", ("down",)),
    "drawing the list": (ListPanel, "_style", ("tab",)),
    "drawing the footer": (Footer, "show_focus", ("tab",)),
    "a trial's answer": (Writing, "_tried", ("w", *"undo")),
    "leaving the prompt": (Writing, "_leave", ("w", "escape")),
    "laying out a card": (RowCard, "compose", ("f",)),
}


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)
    return path


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.parametrize("where", some(PLACES, 3))
def test_it_is_told_and_the_app_goes_on(
    packs: Path, where: str, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    owner, name, keys = PLACES[where]
    caplog.set_level(logging.ERROR, "yardcut")
    logging.getLogger("yardcut").propagate = True

    def fails(*given: object, **named: object) -> None:
        raise KeyError(SECRET)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.line("keep boards > 10")
        await app.until("rows left")
        with monkeypatch.context() as broken:
            broken.setattr(owner, name, fails)
            for key in keys:
                await app.press(key)
            if not keys:
                await app.click(70, 20)
            await app.until(FAULT)
        assert SECRET not in app.screen()
        for _ in range(3):
            await app.press("escape")
        await app.until(FAULT, gone=True)
        await app.line("draw first 7", "7 of")
        await app.until("7 rows left")
        await app.press("u")
        await app.until("7 rows left", gone=True)
        app.allow_faults()

    drive(packs, steps)
    assert SECRET not in caplog.text
    assert "KeyError" in caplog.text
