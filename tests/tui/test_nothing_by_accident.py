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


@pytest.mark.long
def test_moving_about_on_a_card_leaves_the_list_as_it_was(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)
    chance = random.Random(7)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("dial best = 20 from 5 to 60", "the dial best")
        await app.line("keep boards >= 10 AND grade = 'A'")
        await app.line("order price DESC, ticket")
        await app.line("draw top 12 by price")
        await app.line("tally COUNT(*) per species")
        await app.settled()
        desk = app.app._main.stage.desk  # type: ignore[attr-defined]
        before = desk.now.cut_list
        tried, opened = some(list(CARDS), 6), 0
        for card in tried:
            line, keys = CARDS[card]
            desk.select(line)
            if " list  w" in app.screen():
                await app.press("tab")
            await app.press("home", *keys)
            await app.settled()
            opened += len(app.app.screen_stack) > 1
            for _ in range(200 if IS_LONG else 25):
                key = chance.choice([*MOVES, "left", "right"] if card != "dials" else MOVES)
                app.app.dispatcher.take(events.Key(key, None))  # type: ignore[attr-defined]
                if chance.random() < 0.2:
                    await app.pause(0.01)
            await app.press("escape", "escape")
            await app.pause(0.1)
            assert len(app.app.screen_stack) == 1, card
            assert desk.now.cut_list == before, card
        assert opened >= len(tried) - 1  # there may be no kept lists

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


def test_what_is_saved_is_what_is_seen_or_it_is_said(tmp_path: Path) -> None:
    rows = write_packs(tmp_path / "packs.csv", 120, 4)
    by_price = sorted((row for row in rows if row["price"] is not None), key=lambda row: float(row["price"] or 0))

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep price IS NOT NULL")
        await app.press("g")
        await app.type("price")
        await app.press("enter", "s")
        await app.until("look", f"{by_price[0]['n']:05}-31")
        for name, turned in (("own.csv", False), ("looked.csv", True)):
            await app.press("ctrl+s")
            await app.until("as the cut leaves them, not as they are looked at")
            await app.press("ctrl+u")
            await app.type(str(tmp_path / name))
            await app.until("F7: ", "as they are looked at")
            if turned:
                await app.press("f7")
                await app.until("F7: ", "as the cut leaves them")
            await app.press("enter")
            await app.until("read back", "slice written at", "list not saved")
        own, looked = ((tmp_path / name).read_text().splitlines()[1:] for name in ("own.csv", "looked.csv"))
        assert [line[:8] for line in own] == [row["ticket"] for row in rows if row["price"] is not None]
        assert [line[:8] for line in looked] == [row["ticket"] for row in by_price]
        await app.line("keep boards > 20")
        await app.until("slice written at", gone=True)
        await app.until("list not saved")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


def test_space_ticks_where_the_mark_is_and_lists_do_not_go_round(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("right", "v")
        await app.until("values of species", "4 values")
        await app.press("up", "up", "space")
        await app.until("1 ticked")
        await app.press("space")
        await app.until("ticked", gone=True)
        await app.press("end", "down", "down", "space", "up", "down", "space")
        await app.until("4 values")
        await app.until("ticked", gone=True)

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


def test_stopping_a_save_says_what_is_on_the_disk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import threading

    from yardcut.core.pictures import drawing_files

    go_on = threading.Event()
    write = drawing_files.write_picture

    def slow(*words: object) -> None:
        go_on.wait(10)
        write(*words)  # type: ignore[arg-type]

    monkeypatch.setattr(drawing_files, "write_picture", slow)
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("right", "P")
        await app.until("species", "save as SVG")
        await app.press("s")
        await app.until("picture to ▸")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "a.svg"))
        await app.until("writes the picture")
        await app.press("enter")
        await app.until("writing ")
        await app.press("escape")
        await app.until("stopping …")
        go_on.set()
        await app.until("wrote ")
        assert (tmp_path / "a.svg").exists()

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


@pytest.mark.long
def test_after_an_order_the_first_rows_are_shown_and_a_key_goes_back_to_ones_own(tmp_path: Path) -> None:
    rows = write_packs(tmp_path / "packs.csv", 120, 4)
    first = min((row for row in rows if row["boards"] is not None), key=lambda row: float(row["boards"] or 0))
    ordered = sorted(rows, key=lambda row: (row["boards"] is None, float(row["boards"] or 0)))
    place = next(at for at, row in enumerate(ordered, 1) if row["n"] == 90)

    async def steps(app: Driven) -> None:
        grid = app.app._main.stage.grid  # type: ignore[attr-defined]

        def row() -> int:
            return int(grid.cursor_cell()[1])

        await app.until("120 rows × 5 columns")
        await app.press("right", "right", "right", "g")
        await app.type("90")
        await app.press("enter", "s")
        await app.until(f"yours is now {place}: ' goes there")
        assert row() == first["n"]
        await app.press("apostrophe")
        assert row() == 90
        await app.press("apostrophe")
        assert row() == first["n"]
        await app.press("apostrophe", "S")
        await app.until("1 order   boards", "' goes there")
        assert row() == first["n"]
        await app.press("greater_than_sign")
        await app.press("apostrophe")
        assert row() == first["n"]
        await app.press("down", "down", "down")
        await app.line("draw top 40 by price")
        await app.until("40 rows left")
        await app.settled()
        assert grid.viewport.row_position == 0

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


@pytest.mark.long
def test_an_order_is_put_together_key_by_key(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        def lines() -> list[str]:
            return [line.text for line in app.app._main.stage.desk.now.cut.lines]  # type: ignore[attr-defined]

        await app.until("120 rows × 5 columns")
        await app.press("right", "S", "right", "S", "right", "s", "s", "S")
        await app.until("order species, grade, boards DESC: by species first, then grade, then boards")
        assert lines() == ["order species, grade, boards DESC"]
        await app.press("left", "S")
        await app.until("order species, grade DESC, boards DESC")
        await app.press("S")
        await app.until("order species, boards DESC: by species first, then boards")
        await app.press(*["u"] * 6)
        await app.settled()
        assert lines() == ["order species"]
        await app.press("left", "S", "S")
        await app.until("that was its only key")
        assert lines() == []

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


@pytest.mark.long
def test_a_line_that_was_put_away_comes_back(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep boards > 20")
        await app.press("w")
        await app.type("keep price > 300")
        await app.until("would leave")
        await app.press("escape")
        await app.until("not entered: keep price > 300", "w, then ↑ brings it back")
        await app.press("w", "up")
        await app.until("cut ▸ keep price > 300", "would leave")
        await app.press("up")
        await app.until("cut ▸ keep boards > 20")
        await app.press("down", "enter")
        await app.until("2 keep    price > 300")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


@pytest.mark.long
def test_a_column_in_braces_is_said_and_the_command_of_a_saved_list_works(tmp_path: Path) -> None:
    from commands import yardcut

    write_packs(tmp_path / "packs.csv", 120, 4)
    ran: list[str] = []

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep boards > 20")
        await app.press("ctrl+s")
        await app.until("save slice ▸")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "{species}.csv"))
        await app.until("{species} stays as it is written", "one file per species")
        await app.type(" one file per species")
        await app.until("stays as it is written", gone=True)
        await app.press("escape", "ctrl+n")
        await app.until("(2 of 2)")
        await app.press("f4")
        await app.until("save list ▸")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "two cuts.cut"))
        await app.until("writes ")
        await app.press("enter")
        screen = " ".join((await app.until("run it again with:", "--cut")).split())
        ran.append(screen.partition("run it again with: ")[2])

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
    assert "--cut" in ran[0]
    import shlex

    words = shlex.split(ran[0].partition(" --cut ")[0] + " --cut " + ran[0].partition(" --cut ")[2].split("  ")[0])
    name = words[words.index("--cut") + 1]
    done = yardcut("run", tmp_path / "two cuts.cut", "--cut", name, cwd=tmp_path)
    assert done.returncode == 0
    assert done.stdout.startswith("ticket,")
