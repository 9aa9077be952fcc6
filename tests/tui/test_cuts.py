"""Cuts of a list in the app: added, begun from another, named, gone between, taken out."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.test_rack import small


@pytest.mark.long
def test_a_cut_is_begun_from_another_named_and_taken_out_again(tmp_path: Path) -> None:
    async def steps(driven: Driven) -> None:
        await driven.until("40 rows × 7 columns")
        await driven.line("keep species = 'oak'", "would leave 20")
        await driven.press("C")
        await driven.until("1 cut of this list", "keep species = 'oak'")
        await driven.press("f")
        await driven.until("made the cut from slice", "names it", "from slice (2 of 2)")
        await driven.press("C", "r")
        await driven.until("name of the cut ▸", "from slice")
        await driven.type("few")
        await driven.until("the cut is called few")
        await driven.press("enter")
        await driven.until("few (2 of 2) · 20 rows left", 'from    "slice"')
        await driven.line("keep price > 50", "would leave 3 of 20")
        await driven.press("left_square_bracket")
        await driven.until("slice (1 of 2) · 20 rows left")
        await driven.press("x", "tab", "up", "C", "down", "enter")
        await driven.until("few (2 of 2) · 3 rows left")
        await driven.press("ctrl+n")
        await driven.until("made the cut few copy")
        await driven.press("C", "delete")
        await driven.until("took out the cut few copy")
        await driven.press("u", "u", "C", "up", "delete")
        await driven.until("begins with the cut")

    drive(small(tmp_path), steps)
