"""The rack, the column card, and what the keys do to the column under the cursor."""

from __future__ import annotations

import re
import threading
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import WriteTable
from tui.driving import Driven, drive
from yardcut.core.expressions.frame import source_frame
from yardcut.core.language.helping.new_names import free_name, name_trouble, renamed_by_rule
from yardcut.core.progress import CancelToken
from yardcut.tui.desk.column_looks import Looks
from yardcut.tui.desk.figured_rows import Rows
from yardcut.tui.rack.samples import SampleRows


def columns_text(driven: Driven) -> str:
    """Return the last line of the list as it stands."""
    desk = driven.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]
    assert desk is not None
    return desk.now.cut.lines[-1].text if desk.now.cut.lines else ""


def small(tmp_path: Path) -> Path:
    path = tmp_path / "small.csv"
    path.write_text(
        "ticket,species,bay,moisture_d01,moisture_d02,moisture_d03,price\n"
        + "".join(f"{n:03}-31,{'oak' if n % 2 else 'ash'},N-{n % 3},{n},{n + 1},,{n * 1.5}\n" for n in range(1, 41))
    )
    return path


@pytest.mark.few(1)
@pytest.mark.parametrize("news", ["samples", "figures", "rows"])
def test_news_between_the_letters_and_enter_moves_no_cursor_away(tmp_path: Path, news: str) -> None:
    """Values and figures come whenever they come; what is typed is gone to all the same."""

    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.press("c")
        await driven.until("rows 1 to 3 of 40 that pass", "001-31 · 002-31 · 003-31")
        for text, name in (("price", "price"), ("d02", "moisture_d02"), ("spec", "species")):
            await driven.press("slash")
            rack = driven.app.screen
            rack.searching.field.insert_text_at_cursor(text)  # type: ignore[attr-defined]
            if news == "samples":
                rack.searching.find()  # type: ignore[attr-defined]
            elif news == "figures":
                rack.figures_came()  # type: ignore[attr-defined]
            else:
                rack.show(rack.wanted, None, 0)  # type: ignore[attr-defined]
            driven._send("enter")
            await driven.press("h")
            await driven.until(f"{name} is held")
            await driven.press("escape")

    drive(small(tmp_path), steps)


@pytest.mark.long
def test_columns_are_found_taken_left_and_moved_and_the_line_says_it(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.press("c")
        await driven.until("7 of 7 columns in the cut", "rows 1 to 3 of 40 that pass", "001-31 · 002-31 · 003-31")
        await driven.press("slash")
        await driven.type("moisture_*")
        await driven.until("3 match")
        await driven.press("enter")
        await driven.press("l")
        await driven.until("4 of 7 columns", "3 left out of the cut")
        assert columns_text(driven) == "columns all without moisture_d01, moisture_d02, moisture_d03"
        await driven.press("o")
        await driven.until("3 of 7 columns")
        assert columns_text(driven) == "columns moisture_*"
        await driven.press("u")
        await driven.until("4 of 7 columns")
        await driven.press("t")
        await driven.until("7 of 7 columns")
        assert columns_text(driven) == "columns all"
        await driven.press("escape", "home", "semicolon", "semicolon")
        await driven.until("column 3 of the cut")
        assert columns_text(driven) == "columns species, bay, all"
        await driven.press("less_than_sign", "space")
        await driven.until("left out ticket")
        assert columns_text(driven).endswith("without ticket")
        await driven.press("end", "h")
        await driven.until("only columns in the cut have a place there")
        await driven.press("home", "h")
        await driven.until("is held")
        await driven.press("down", "down", "h")
        await driven.until("column 3 of the cut")
        assert columns_text(driven).startswith("columns bay, ")
        await driven.press("escape")
        await driven.until("bay", "table")

    drive(small(tmp_path), steps)


def test_renaming_is_checked_and_seen_before_it_is_done(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.press("c")
        await driven.until("7 of 7 columns")
        await driven.press("down", "r", *["backspace"] * 7)
        await driven.until("a column needs a name")
        await driven.type("bay")
        await driven.until("another column is named bay; F2 writes  bay_2")
        await driven.press("f2", "enter")
        await driven.until("renamed 1 column")
        assert columns_text(driven) == "columns ticket, species AS bay_2, all"
        await driven.press("slash")
        await driven.type("moist")
        await driven.press("enter", "R")
        await driven.type("swap isture_ _ upper")
        await driven.until("→ MO_D01", "would rename 3 columns of those found")
        await driven.press("enter")
        await driven.until("renamed 3 columns")
        assert "moisture_d02 AS MO_D02" in columns_text(driven)
        await driven.press("R")
        await driven.type("upside")
        await driven.until("a rule is made of")
        await driven.press("escape", "escape")
        await driven.press("x")
        await driven.until("switched off")
        assert "off " in columns_text(driven)
        await driven.press("u", "escape")

    drive(small(tmp_path), steps)


@pytest.mark.long
def test_values_of_other_rows_and_other_orders_are_for_the_eye_only(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.line("keep species = 'oak'", "would leave 20")
        await driven.press("down", "down", "c")
        await driven.until("rows 3 to 5 of 20 that pass", "005-31 · 007-31 · 009-31")
        await driven.press("n")
        await driven.until("rows 4 to 6 of 20")
        await driven.press("N", "g")
        await driven.until("rows 3 to 5 of 20")
        await driven.press("slash")
        await driven.type("missing > 50%")
        await driven.until("1 matches")
        await driven.until("not counted yet", gone=True)
        await driven.press("escape", "slash")
        await driven.type("moist")
        await driven.press("enter", "ampersand")
        await driven.type("d02")
        await driven.until("1 matches, among 3 found before: 1")
        await driven.press("enter", "plus")
        await driven.type("price")
        await driven.until("1 matches, beside 1 found before: 2")
        await driven.press("escape", "escape", "s")
        await driven.until("sorted by name")
        await driven.press("comma")
        await driven.until("another order than the cut's")
        await driven.press("escape")
        assert columns_text(driven) == "keep species = 'oak'"

    drive(small(tmp_path), steps)


@pytest.mark.long
def test_the_keys_of_the_table_and_the_card_change_the_same_line(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.press("right", "minus")
        await driven.until("left out species")
        await driven.press("semicolon")
        await driven.until("moved bay to the right")
        assert columns_text(driven) == "columns ticket, moisture_d01, all without species"
        await driven.press("r")
        await driven.until("new name ▸")
        await driven.type("place")
        await driven.until("bay becomes place")
        await driven.press("enter")
        await driven.until("bay is place")
        await driven.press("z")
        await driven.until("place stands still", "place‖")
        await driven.press("home", "right", "right", "h")
        await driven.until("keep the 14 rows with N-1", "keep place = 'N-1'")
        await driven.press("escape", "end", "h")
        await driven.until("read it as text", "order by it, largest first")
        await driven.press("down", "enter")
        await driven.until("1↓")
        assert columns_text(driven) == "order price DESC"
        await driven.press("h")
        await driven.until("order by it first")
        await driven.press("escape")
        await driven.click(60, 1)
        await driven.until("Enter do it")
        await driven.press("escape")

    drive(small(tmp_path), steps)


@pytest.mark.long
def test_a_column_by_a_pattern_is_pinned(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.line("columns ticket, moisture_*")
        await driven.press("c")
        await driven.until("4 of 7 columns", "by moisture_*")
        await driven.press("home", "p")
        await driven.until("by its name already")
        await driven.press("down", "p")
        await driven.until("is the names it meets now")
        assert columns_text(driven) == "columns ticket, moisture_d01, moisture_d02, moisture_d03"

    drive(small(tmp_path), steps)


@pytest.mark.long
def test_thousands_of_columns_and_odd_names(tmp_path: Path) -> None:
    path = tmp_path / "wide.csv"
    names = [f"c{number}" for number in range(1_500)]
    names[7], names[8] = "[b]x\u202e", "n" * 4_000
    path.write_text(",".join(names) + "\n" + ",".join(map(str, range(1_500))) + "\n")

    async def steps(driven: Driven) -> None:
        await driven.until("1 row × 1,500 columns")
        await driven.press("c")
        await driven.until("1,500 of 1,500 columns", "[b]x")
        await driven.press("slash")
        await driven.type("c149")
        await driven.until("11 match")
        await driven.press("enter", "o")
        await driven.until("11 of 1,500 columns")
        await driven.press("escape", "escape")

    drive(path, steps)


@pytest.mark.few(2)
@pytest.mark.parametrize("size", [(80, 24), (50, 12), (20, 5), (200, 60)])
def test_the_rack_is_usable_at_any_size(tmp_path: Path, size: tuple[int, int]) -> None:
    async def steps(driven: Driven) -> None:
        while driven.app.screen_stack[0].stage.desk is None:  # type: ignore[attr-defined]
            await driven.pause(0.05)
        await driven.press("c", "down", "space", "escape")
        await driven.resize(160, 47)
        await driven.until("6 columns")

    drive(small(tmp_path), steps, size)


names = st.text(st.characters(exclude_categories=["Cs"]), max_size=12)


@given(name=names, others=st.lists(names, max_size=4))
def test_a_mended_name_has_no_trouble(name: str, others: list[str]) -> None:
    trouble = name_trouble(name, others)
    if trouble is None:
        assert name not in others
        assert name == name.strip()
        assert not re.search(r"[\x00-\x1f]", name)
    else:
        assert name_trouble(trouble.mended, others) is None


def test_rules_of_names() -> None:
    names = {1: "Max Temp (C)", 2: "kiln in"}
    assert renamed_by_rule("lower underscores", names) == {1: "max_temp_c", 2: "kiln_in"}
    assert renamed_by_rule("cut 'Max ' cut end in add x_", names) == {1: "x_Temp (C)", 2: "x_kiln "}
    assert free_name("a", ["A", "a_2"]) == "a_3"


@pytest.mark.long
def test_columns_left_out_are_seen_where_they_are_used_and_on_the_row_card(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.line("columns ticket, species AS wood")
        await driven.line("keep price > 30", "would leave 20")
        await driven.until("price╱", "left out", "31.5")
        await driven.press("f")
        await driven.until("wood", "4 left out of the cut", "moisture_d02")
        await driven.press("escape", "tab", "up")
        await driven.until("price╱", gone=True)
        await driven.press("f")

    drive(small(tmp_path), steps)


def test_what_is_found_by_figures_follows_the_figures(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    known = threading.Event()
    plain = Looks.summary

    def late(self: Looks, *given: Any, **named: Any) -> Any:
        known.wait(10)
        return plain(self, *given, **named)

    monkeypatch.setattr(Looks, "summary", late)

    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.press("c")
        await driven.until("7 of 7 columns")
        await driven.press("slash")
        await driven.type("missing > 50%")
        await driven.until("0 match; 7 columns are not counted yet")
        known.set()
        await driven.until("1 matches   (1 in the cut)")
        await driven.press("escape", "escape", "s", "s", "s")
        await driven.until("sorted by missing")

    drive(small(tmp_path), steps)


def test_values_are_read_though_the_screen_shows_columns_of_a_newer_list(table_of: WriteTable) -> None:
    frame = source_frame(table_of(["a", "b"], [["x", 1], ["y", 2]]))
    samples = SampleRows(Rows(frame, "now"), frame.columns, 0)
    read = {number: cells for found in samples.read([72, 2], CancelToken()) for number, cells in found.items()}
    assert read == {1: ("x", "y"), 2: ("1", "2")}


def test_columns_that_a_tally_makes_have_no_values_of_the_rows_above_a_line_that_is_wrong(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns", "no lines yet")
        desk = driven.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]
        for text in (
            "draw stratified per species sizes 'elm' 3, others 1 seed 1",
            "tally COUNT(*) AS n, MAX(price) AS high per bay",
        ):
            desk.edits.enter(text, len(desk.now.lines) - 1)
        await driven.until("elm")
        await driven.press("c")
        seen = await driven.until("high", "the rows are being counted")
        assert "of 40" not in seen
        await driven.settled()
        await driven.press("escape")

    drive(small(tmp_path), steps)
