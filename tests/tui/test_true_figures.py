"""A figure on screen belongs to the rows on screen, or is not shown: random edits and moves against plain truth.

``YARDCUT_STEPS=2000`` makes it a long run.
"""

from __future__ import annotations

import os
import random
from pathlib import Path

import pytest
from textual import events

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive
from tui.plain_truth import COLUMNS, LINES, write_packs
from tui.watcher import Watcher
from yardcut.core.sources.spec import SourceSpec

STEPS = int(os.environ.get("YARDCUT_STEPS", "45" if IS_LONG else "25"))
KEYS = ["up", "down", "left", "right", "right", "pagedown", "home", "end", "ctrl+end", "ctrl+home", "tab", "tab", "tab", "x", "x",
        "delete", "comma", "semicolon", "u", "u", "U", "o", "escape", "full_stop"]  # fmt: skip


@pytest.mark.parametrize("seed", some([1, 2], 1))
def test_every_figure_on_screen_is_true_of_the_rows_on_screen(tmp_path: Path, seed: int) -> None:
    rows = write_packs(tmp_path / "packs.csv", 260, seed)
    rng = random.Random(seed)

    async def steps(app: Driven) -> None:
        await app.until("260 rows × 5 columns", "no lines yet", "distinct")
        await app.press("right", "right", "right")
        watcher = Watcher(app, rows)
        take = app.app.dispatcher.take  # type: ignore[attr-defined]
        for _ in range(STEPS):
            if rng.random() < 0.35 and len(watcher.texts) < 7:
                take(events.Key("ctrl+g", None))
                take(events.Key("w", "w"))
                is_here = any("weight" in text for text in watcher.texts)  # a column is brought once
                take(events.Paste(rng.choice([line for line in LINES if not (is_here and "weight" in line)])))
                if rng.random() < 0.4:
                    await app.pause(rng.choice([0, 0.02, 0.1]))
                    watcher.check()
                take(events.Key("enter" if rng.random() < 0.8 else "escape", None))
            else:
                key = rng.choice(KEYS)
                take(events.Key(key, "." if key == "full_stop" else key if len(key) == 1 else None))
            if rng.random() < 0.3:
                await app.settled()
                watcher.check()
                if "cut ▸" not in app.screen() and app.app.screen is app.app._main:  # type: ignore[attr-defined]
                    assert "counting …" not in app.screen()
            else:
                await app.pause(rng.choice([0, 0, 0.01, 0.05]))
                watcher.check()
        # at the end each kind of figure is seen for certain: on the source, and of a line that is being written
        for key in ("ctrl+g", "ctrl+g", "ctrl+g", *["u"] * 3 * STEPS):
            take(events.Key(key, key if len(key) == 1 else None))
        await app.until("no lines yet")
        if " list  w" in app.screen():
            await app.press("tab")
        await app.press("home", "right", "right", "right", "w")
        await app.settled()
        watcher.check()
        take(events.Paste("keep boards >= 20"))
        await app.until("would leave")
        watcher.check()
        for line in ("order price", "draw chance 1 in 4 seed 3"):
            for key in ("escape", "w"):
                take(events.Key(key, key if len(key) == 1 else None))
            take(events.Paste(line))
            await app.until(line, "the table: as it would be", "would leave it", "distinct")
            watcher.check()
        assert all(watcher.seen.values()), watcher.seen

    assert set(COLUMNS) <= set(rows[0])
    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
