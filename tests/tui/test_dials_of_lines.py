"""A dial of what is marked, in one key: the number of a draw, what a piece compares with, the column of a key."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec


@pytest.mark.long
def test_a_dial_is_made_where_a_number_or_a_column_is_marked(tmp_path: Path) -> None:
    rows = write_packs(tmp_path / "packs.csv", 120, 4)
    oak = sum(row["species"] == "oak" for row in rows)
    ash = sum(row["species"] == "ash" for row in rows)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep species = 'oak'", f"would leave {oak}")
        await app.press("tab", "r", "colon")
        await app.until("made :species of 'oak'", "species = :species")
        await app.press("escape", "colon")
        await app.until("dials", "from the values of species", f"{oak} rows")
        await app.press("v")
        await app.until("ash")
        for _ in range(4):
            if "▸ ash" in app.screen():
                break
            await app.press("down")
        await app.type("/ash")
        await app.press("enter", "enter")
        await app.until(":species holds 'ash'", f"{ash} rows")
        await app.press("escape", "tab")
        await app.line("draw top 7 by price", "would leave 7")
        await app.press("tab", "r")
        await app.until("7 rows")
        await app.press("colon")
        await app.until("made :rows of 7", "draw top :rows by price")
        await app.press("plus")
        await app.until(":rows = 8", "8 rows")
        await app.press("escape", "tab")
        await app.line("order grade, boards DESC", "(as line")
        await app.press("tab", "r", "down", "colon")
        await app.until("made :key of boards")
        await app.press("u")
        await app.until("made :key of boards", gone=True)
        await app.press("escape", "colon", "m")
        await app.until("there is no number in this line")
        await app.press("escape", "tab")
        await app.line("make half = boards / 2", "(as line")
        await app.press("tab", "colon", "m")
        await app.until("made :number of 2", "boards / :number")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
