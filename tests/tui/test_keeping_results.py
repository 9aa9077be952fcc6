"""Dials, options of a save, notes, comparing and copying, as a user does it: the app, driven by keys."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.core.cutlist.file import list_text
from yardcut.core.cutlist.model import CutList


@pytest.fixture
def packs(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """300 rows: 200 oak, 90 ash, 10 yew; prices fall."""
    monkeypatch.chdir(tmp_path)
    path = tmp_path / "packs.csv"
    with open(path, "w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["ticket", "species", "price", "note"])
        for row in range(300):
            species = "yew" if row % 30 == 1 else "ash" if row % 10 < 3 else "oak"
            writer.writerow([f"{row:05}-31", species, f"{1000 - row // 2}.50", "=2+3" if row == 7 else "dry"])
    return path


def cut_list(app: Driven) -> CutList:
    found: CutList = app.app._main.stage.desk.now.cut_list  # type: ignore[attr-defined]
    return found


def dials(app: Driven) -> list[str]:
    return [f"{dial.name} {dial.said()}" for dial in cut_list(app).dials]


def test_a_dial_is_written_used_turned_chosen_and_emptied(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.press("w")
        await app.type("dial woods = 'oak' from column species")
        await app.until("the dial woods holds 'oak'; write :woods in a line to use it")
        await app.press("enter")
        await app.until(":woods")
        await app.line("dial best = 12 from 4 to 14", "the dial best holds 12")
        await app.press("w")
        await app.type("keep species IN (:w")
        await app.until("woods    'oak'")
        await app.press("tab")
        await app.type(")")
        await app.until("would leave 210 of 300")
        await app.press("enter")
        await app.line("draw top :best by price", "would leave 12 of 210")
        await app.until("12 rows left")
        await app.press("colon")
        await app.until("keep species IN (:woods)", "210 rows")
        await app.press("down", "right")
        await app.until("draw top :best by price", "13 rows")
        await app.press("right", "right", "right")
        await app.until(":best goes no further")
        assert dials(app) == ["woods 'oak'", "best 14"]
        await app.press("up", "enter")
        await app.until("3 values of species; line 1 leaves 300 rows without the dial", "● oak")
        await app.press_quickly("space", "enter")
        await app.until(":woods holds 'oak', 'ash'", "290 rows")
        await app.press("enter")
        await app.until("2 ticked")
        await app.press("slash")
        await app.type("ye")
        await app.press("enter", "enter")
        await app.until(":woods holds 'yew'", "10 rows")
        await app.press("x")
        await app.until(":woods is empty", "300 rows")
        await app.press("u", "u", "u")
        await app.until("'oak'", "210 rows")
        await app.press("escape")
        await app.until("14 rows left")
        await app.press("u")
        await app.until("12 rows left")

    drive(packs, steps)


@pytest.mark.long
def test_a_dial_taken_out_leaves_its_lines_wrong_and_undo_mends_them(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("dial top = 3", "the dial top holds 3")
        await app.line("draw first :top", "would leave 3")
        await app.press("colon", "delete")
        await app.until("the list has no dial top")
        await app.press("u")
        await app.until("draw first :top", "3 rows")
        await app.press("n")
        await app.until("cut ▸ dial")
        await app.press("escape")
        await app.press("w")
        await app.type("dial bad = 1, 'x'")
        await app.until("a dial holds values of one kind")

    drive(packs, steps)


@pytest.mark.long
def test_the_options_of_a_save_are_chosen_and_written_behind_the_path(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep price > 997 AND species = 'oak'", "would leave 5")
        await app.press("ctrl+s")
        await app.until(
            "writes 5 rows and 4 columns as csv", "1 text begins as formulas do (=2+3): add  guard formulas"
        )
        await app.press("f6")
        await app.until("how it is written", "between cells")
        await app.press_quickly("down", "right", "right", *["down"] * 7, "right", "down", "right")
        await app.until("delimiter ';' guard formulas with list")
        await app.press("c")
        await app.until("one file for all")
        await app.type("spec")
        await app.press("tab")
        await app.until("one file per species")
        await app.press("backspace", "backspace", "backspace", "backspace")
        await app.type("tick")
        await app.press("tab", "enter")
        await app.until("delimiter ';' guard formulas with list one file per species, ticket")
        await app.press("c", "tab")  # the first in the list is ticket: its tick is taken away
        await app.press("escape")
        await app.until("one file per species, ticket")
        await app.press("end", "left")
        await app.until("one file per species", gone=True)
        await app.press("enter")
        await app.until("save slice ▸ packs-slice.csv delimiter ';' guard formulas with list", "writes 5 rows")
        await app.press("enter")
        await app.until("5 rows read back", "and its list to packs-slice.cut")
        written = packs.with_name("packs-slice.csv").read_text().splitlines()
        assert written[1] == "00003-31;oak;999.50;dry"
        assert [line for line in written if "2+3" in line] == ["00007-31;oak;997.50;'=2+3"]
        assert (
            "--   1: 300 -> 5   keep price > 997 AND species = 'oak'" in packs.with_name("packs-slice.cut").read_text()
        )
        await app.press("ctrl+s")
        await app.until("packs-slice.csv exists", "F5, then Enter writes over it")
        await app.press("ctrl+u")
        await app.type("{species}.csv one file per species")
        await app.until("one file per species")
        await app.press("enter")
        await app.until("wrote 1 file to .")
        assert packs.with_name("oak.csv").exists()

    drive(packs, steps)


@pytest.mark.long
def test_the_slice_may_be_saved_as_of_the_selected_line(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep species = 'yew'", "would leave 10")
        await app.line("draw first 3", "would leave 3")
        await app.press("tab", "up", "ctrl+s")
        await app.until("writes 3 rows and 4 columns as csv", "F7: 10 rows as of line 1")
        await app.press("f7")
        await app.until("writes 10 rows and 4 columns as csv as of line 1", "F7: 3 rows as of the last line")
        await app.press("enter")
        await app.until("10 rows read back")

    drive(packs, steps)


@pytest.mark.long
def test_notes_the_question_and_lines_that_are_off(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep species = 'oak'", "would leave 210")
        await app.line("draw first 5", "would leave 5")
        await app.press("tab", "a")
        await app.until("note on line 2 ▸")
        await app.type("as Marrowin asked")
        await app.press("enter")
        await app.until("-- as Marrowin asked")
        await app.press("home", "a")
        await app.until("the question ▸")
        await app.type("which oak is dear?")
        await app.press("enter")
        text = list_text(cut_list(app))
        assert '-- which oak is dear?\ncut "slice"\n  keep species' in text
        assert "  -- as Marrowin asked\n  draw first 5" in text
        await app.press("end", "a")
        await app.until("note on line 2 ▸ as Marrowin asked")
        await app.press("ctrl+u", "enter")
        await app.until("-- as Marrowin asked", gone=True)
        await app.press("x", "Z")
        await app.until("took out 1 line that were off")
        assert [line.text for line in cut_list(app).cuts[0].lines] == ["keep species = 'oak'"]
        await app.press("Z")
        await app.until("no line is switched off")
        await app.press("u")
        await app.until("off")

    drive(packs, steps)


def test_two_cuts_are_compared_and_their_rows_seen(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep price > 900", "would leave")
        await app.press("C", "v")
        await app.until("the list has one cut", "adds a copy")
        await app.press("ctrl+n", "C", "r")
        await app.type("dear oak")
        await app.press("enter")
        await app.line("keep species = 'oak'", "would leave 140 of 202")
        await app.press("C", "v")
        await app.until("dear oak beside slice", "in both")
        await app.press("escape", "C", "up", "v")
        await app.until("dear oak beside slice", "in both", "140", "only in slice", "62", "3 values, oak 69%")
        await app.press("down", "down", "enter")
        await app.until("rows only in slice, not in dear oak", "ash")
        await app.press("b")
        await app.until("these rows are compared")
        await app.press("escape")
        await app.until("140 rows left")

    drive(packs, steps)


def test_the_cell_and_the_rows_on_screen_are_copied(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        copied: list[str] = []
        app.app.copy_to_clipboard = copied.append  # type: ignore[method-assign]
        await app.until("300 rows")
        await app.line("keep price > 999", "would leave")
        await app.until("4 rows left")
        await app.press("right", "a")
        await app.until("copied ash")
        await app.press("A")
        await app.until("copied 4 rows of 4 columns")
        assert copied[0] == "ash"
        assert copied[1].splitlines()[:2] == ["ticket\tspecies\tprice\tnote", "00000-31\tash\t1000.5\tdry"]

    drive(packs, steps)
