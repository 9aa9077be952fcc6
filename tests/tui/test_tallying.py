"""Tallying in the app: put together on a card, looked behind, drawn, saved; every figure that of the rows."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from tui.driving import Driven, drive

ROWS = [
    ("oak", "A", "1.5", "10", "2031-01-03"), ("oak", "B", "2.25", "20", "2031-02-01"), ("ash", "A", "", "5", "2031-01-09"),
    ("", "A", "3", "7", "2031-03-01"), ("oak", "A", "0.1", "11", "2031-01-05"),
]  # fmt: skip


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    path.write_text("species,grade,volume,price,felled_on\n" + "".join(",".join(row) + "\n" for row in ROWS))
    return path


def test_a_tally_is_put_together_on_a_card_and_looked_behind(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.press("t")
        await app.until(
            "line 1: tally", "a row for each  species", "comes to 3 rows × 2 columns", "1 row without a group value"
        )
        await app.press("a")
        await app.type("volume")
        await app.press("enter")
        await app.until("SUM(volume)", "SUM(volume) leaves out 1 row without a value", "× 3 columns")
        await app.press("space")
        await app.until("AVG(volume)")
        await app.press("g")
        await app.type("grade")
        await app.press("enter")
        await app.until("comes to 4 rows × 4 columns")
        await app.press("l")
        await app.until("columns along   grade", "comes to 3 rows × 5 columns")
        await app.press("u")
        await app.until("a row for each  grade", "comes to 4 rows × 4 columns")
        await app.press("escape")
        await app.until("line 1: tally", gone=True)
        await app.press("right", "right", "enter")
        await app.until("the rows behind this figure", "species = 'oak' AND grade = 'A'", "count is 2")
        await app.press("enter")
        await app.until("behind the figure: 2 rows above line 1", "2031-01-05", "k makes it a line")
        await app.press("escape")
        await app.until("4 rows left", "avg_volume")
        await app.press("enter")
        await app.until("the rows behind this figure")
        await app.press("enter")
        await app.until("behind the figure: 2 rows")
        await app.press("k")
        await app.until("1 keep", "2 tally", "1 row left")

    drive(packs, steps)


@pytest.mark.long
def test_lines_below_columns_that_only_the_rows_tell_are_offered_and_bound(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.line("tally SUM(price) AS p per species along grade", "puts 5 rows together: 3 rows, 3 columns")
        await app.until("p_A", "p_B")
        await app.press("w")
        await app.type("order p_")
        await app.until("p_A", "p_B", "cut ▸")
        await app.type("B")
        await app.until("puts 3 rows in order")
        await app.press("enter")
        await app.until("2 order")
        await app.press("w")
        await app.type("keep p_C > 1")
        await app.until("there is no column p_C")
        await app.press("escape", "escape")
        await app.press("tab", "up", "x")  # the tally is switched off: the line below makes no sense any more
        await app.until("there is no column p_B")
        await app.press("x")
        await app.until("3 rows left")

    drive(packs, steps)


@pytest.mark.long
def test_a_picture_of_a_tally_is_drawn_three_ways_and_saved(packs: Path, tmp_path: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.line("tally SUM(volume) AS volume per species along grade", "puts 5 rows together")
        await app.press("right", "P")
        await app.until("volume per species", "volume_A", "volume_B", "no value", "2.25")
        await app.press("k")
        await app.until("drawn as stacked")
        await app.press("k")
        await app.until("drawn as line")
        await app.press("minus")
        await app.until("the first 39 rows")
        await app.press("t")
        await app.until("title ▸")
        await app.type("Volume of the packs")
        await app.press("enter")
        await app.until("Volume of the packs", "volume_B")
        await app.press("s")
        await app.until("picture to ▸")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "volume.svg"))
        await app.press("enter")
        await app.until("wrote")

    drive(packs, steps)
    drawn = (tmp_path / "volume.svg").read_text()
    assert "volume_B" in drawn
    assert "Volume of the packs" in drawn
    assert "clip" not in drawn


def test_the_strip_below_is_of_the_rows_and_not_of_the_groups(packs: Path) -> None:
    """The average of all rows is not that of the groups' averages, and none of it is a row."""

    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.line("tally COUNT(*), AVG(price) AS p, MAX(grade) per species", "puts 5 rows together")
        await app.until("3 rows left", " all ")
        strip = next(line for line in app.screen().splitlines() if " all " in line and "10.6" in line)
        assert strip.split("all")[1].split() == ["5", "10.6", "B"]
        await app.line("keep count > 0")
        await app.until("2 keep")
        assert not any(" all " in line and "10.6" in line for line in app.screen().splitlines())

    drive(packs, steps)


@pytest.mark.long
def test_a_cross_table_has_its_totals_at_the_right_and_none_of_them_is_a_column(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.line("tally SUM(price) AS p, COUNT(*) AS n per species along grade", "3 rows, 5 columns")
        screen = await app.until("all p", "all n", "p_A", "n_B")
        lines = screen.splitlines()
        (oak,) = [line for line in lines if re.search(r"\boak\b.*\b41\s+3\s*$", line)]
        assert re.search(r"21\s+20", oak) or "21" in oak
        assert any(re.search(r"\ball\b.*\b53\s+5\s*$", line) for line in lines)
        await app.press("ctrl+s")
        await app.until("save slice ▸")
        await app.press("ctrl+u")
        await app.type(str(packs.parent / "out.csv"))
        await app.until("3 rows")
        await app.press("enter")
        await app.until("wrote")
        head, *_ = (packs.parent / "out.csv").read_text().splitlines()
        assert "all" not in head

    drive(packs, steps)


@pytest.mark.long
def test_a_picture_follows_the_dial_that_is_turned_beside_it(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("5 rows × 5 columns")
        await app.line("dial least = 5 from 0 to 40 step 6", "the dial least")
        await app.line("keep price >= :least", "would leave")
        await app.line("tally SUM(price) AS p per species", "rows, 2 columns")
        await app.press("P")
        await app.until("p per species", "oak", "41", "ash", "d dial up, down")
        await app.press("d")
        await app.until(":least = 11", "oak", "31")
        await app.until("ash", gone=True)
        await app.press("D")
        await app.until(":least = 5", "41", "ash")
        await app.press("d", "d", "escape")
        await app.until(":least 17")
        await app.press("u")  # turns in a row are one edit
        await app.until(":least 5", "2 tally")

    drive(packs, steps)
