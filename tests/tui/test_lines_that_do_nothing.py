"""Every key about a line, on lines that are switched off or wrong: each does something or says why not."""

from __future__ import annotations

from pathlib import Path

import pytest

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.cutlist.model import Line
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus

LINES = [
    "draw random 12 per species seed 3", "order grade DESC, boards", "keep boards > 3 AND grade = 'A'", "draw top 3 by boards",
    "make many = boards >= 18", "columns ticket, species", "drop REPEATED(species)", "save 'x.csv'", "draw first 5 remainder",
    "draw random 9 with replacement seed 1",
]  # fmt: skip
STATES = ["off", "wrong above"]
ENDS_OR_LEAVES = {"ctrl+q", "q", "f6", "R", "ctrl+z"}
"""Of these keys others are about other things: ending, an editor of one's own, reading again."""


def keys() -> list[str]:
    found = [action.keys[0] for action in ACTIONS if action.focus in (Focus.LIST, Focus.ANYWHERE, Focus.GRID)]
    return [key for key in dict.fromkeys(found) if key not in ENDS_OR_LEAVES]


def some_keys(state: str) -> list[str]:
    """Return every key in the long run; in the short one half of them, each in one of the states."""
    return keys() if IS_LONG else keys()[STATES.index(state) :: 2 * len(STATES)]


@pytest.mark.long
@pytest.mark.parametrize("line", some(LINES, 1))
@pytest.mark.parametrize("state", STATES)
def test_every_key_on_it(tmp_path: Path, line: str, state: str) -> None:
    write_packs(tmp_path / "packs.csv", 60, 5)

    async def steps(app: Driven) -> None:
        await app.until("60 rows", "distinct")
        await app.line("keep boards > 1")
        await app.line(f"off {line}" if state == "off" else line, "switched off" if state == "off" else "(as line")
        desk = app.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]
        if state != "off":
            desk.edits.take_list(desk.now.cut_list.with_cut(0, desk.now.cut.with_line(0, Line("keep lenth > 1"))), 0)
        whole = desk.now.cut_list
        for key in some_keys(state):
            desk.edits.take_list(whole, 0)
            is_table = app.screen().rpartition("\n")[2].startswith(" table")
            await app.press_quickly("tab" if is_table else "end", key, "enter", "escape", "escape", "escape")
            app.end()

    drive(SourceSpec.of(tmp_path / "packs.csv"), steps)
