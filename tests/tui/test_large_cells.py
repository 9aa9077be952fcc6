"""Cells and lines of a length nobody reads: everything that shows, wraps or quotes one answers at once."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from textual import events

from thoroughness import some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs

FROZEN_SECONDS = 8.0
"""Far longer than it takes, far shorter than what was quadratic took."""

CELLS = {
    "line breaks": '"' + "ab\n" * 100_000 + '"',
    "one word": "x" * 1_000_000,
    "wide": "木" * 100_000,
    "controls": "\x1b[31m" * 60_000,
}


@pytest.mark.long
@pytest.mark.parametrize("kind", some(CELLS, 1))
def test_a_cell_of_a_megabyte(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "cell.csv"
    path.write_text("remark,boards\n" + "x,1\n" * 3 + CELLS[kind] + ",2\n" + "y,3\n" * 3, encoding="utf-8")

    async def steps(app: Driven) -> None:
        await app.until("7 rows")
        await app.press("down", "down", "down")
        for key in (
            "f", "n", "p", "slash", "9", "escape", "full_stop", "tab", "e", "escape", "tab", "enter", "escape", "delete",
            "u", "p", "escape", "i", "escape", "o", "o", "f4", "escape",
        ):  # fmt: skip
            before = time.thread_time()
            await app.press(key)
            await app.pause(0.03)
            assert time.thread_time() - before < FROZEN_SECONDS, key
        assert (await app.settled()).splitlines()[-1].startswith((" table", " list"))

    drive(path, steps)


LINES = {
    "one text": "keep ticket = '" + "x" * 90_000 + "'",
    "one word": "keep " + "x" * 90_000,
    "many values": "keep ticket in (" + ",".join(f"'{number}'" for number in range(5_000)) + ")",
    "many conditions": "keep " + " or ".join(["boards > 3"] * 2_000),
    "more than a line holds": "keep ticket = '" + "x" * 200_000,
    "line breaks": "a\n" * 40_000,
    "names left out": "columns -" + ",-".join("a" * 5 for _ in range(15_000)) + "!",
    "stars": "columns " + "*a" * 900 + "b",
}


@pytest.mark.few(1)
@pytest.mark.parametrize("kind", some(LINES, 2))
def test_a_line_as_long_as_one_may_be(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "packs.csv"
    write_packs(path, 30, 5)

    async def steps(app: Driven) -> None:
        await app.until("30 rows", "distinct")
        await app.press("w")
        before = time.thread_time()
        app.app.dispatcher.take(events.Paste(LINES[kind]))  # type: ignore[attr-defined]
        await app.settled()
        for key in ("x", "backspace", "f2", "tab", "home", "end", "enter", "escape"):
            await app.press(key)
        await app.settled()
        assert time.thread_time() - before < 4 * FROZEN_SECONDS
        await app.press("escape", "escape")
        await app.until("w write")

    drive(path, steps)
