"""Nothing is done by accident: keys that move about change nothing, whatever card is open."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from textual import events

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Edits, Focus

MOVES = ("up", "down", "pageup", "pagedown", "home", "end", "ctrl+home", "ctrl+end")
CARDS = {  # the keys that open each, on which line
    "draw": (2, ["d"]), "tree": (0, ["tab", "r"]), "order": (1, ["tab", "r"]), "tally": (3, ["tab", "r"]), "picture": (2, ["P"]),
    "values": (0, ["v"]), "bounds": (0, ["end", "v"]), "cell": (0, ["enter"]), "row": (0, ["f"]), "column": (0, ["h"]), "why": (0, ["y"]),
    "reasons": (0, ["O"]), "cuts": (0, ["C"]), "dials": (0, ["colon"]), "source": (0, ["i"]), "profile": (0, ["p"]), "rack": (0, ["c"]),
    "keys": (0, ["question_mark"]), "kept": (0, ["K"]),
}  # fmt: skip


def test_no_key_that_moves_about_edits() -> None:
    wrong = [action.id for action in ACTIONS if set(action.keys) & set(MOVES) and action.edits is not Edits.NEVER]
    assert wrong == []
    sideways = [
        action.id for action in ACTIONS
        if {"left", "right"} & set(action.keys) and action.edits is not Edits.NEVER and action.focus is not Focus.DIALS
    ]  # fmt: skip
    assert wrong + sideways == []


def test_a_value_is_changed_by_the_same_keys_everywhere() -> None:
    for action in ACTIONS:
        if (
            action.edits is Edits.SERIES
            and action.id.endswith(("-more", "-less", "-fewer"))
            and "many" not in action.id
        ):
            more = action.id.endswith("more")
            assert ("plus" if more else "minus") in action.keys, action.id
            assert ("ctrl+up" if more else "ctrl+down") in action.keys or action.focus is Focus.DIALS, action.id


@pytest.mark.parametrize("card", some(list(CARDS), 8))
def test_moving_about_on_a_card_leaves_the_list_as_it_was(tmp_path: Path, card: str) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)
    line, keys = CARDS[card]
    chance = random.Random(card)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("dial best = 20 from 5 to 60", "the dial best")
        await app.line("keep boards >= 10 AND grade = 'A'")
        await app.line("order price DESC, ticket")
        await app.line("draw top 12 by price")
        await app.line("tally COUNT(*) per species")
        await app.settled()
        desk = app.app._main.stage.desk  # type: ignore[attr-defined]
        desk.select(line)
        await app.settled()
        before = desk.now.cut_list
        await app.press(*keys)
        await app.settled()
        for _ in range(200 if IS_LONG else 30):
            key = chance.choice([*MOVES, "left", "right"] if card not in ("dials",) else MOVES)
            app.app.dispatcher.take(events.Key(key, None))  # type: ignore[attr-defined]
            if chance.random() < 0.2:
                await app.pause(0.01)
        await app.press("escape")
        await app.press("escape")
        await app.settled()
        assert desk.now.cut_list == before

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


def test_what_a_card_changed_is_said_when_it_is_put_away(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("draw random 30 seed 1")
        await app.press("d", "plus", "plus", "asterisk", "pagedown", "escape")
        await app.until("the card left draw random 35 seed 1; u gives back draw random 30 seed 1")
        await app.press("u")
        await app.until("30 rows left")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
