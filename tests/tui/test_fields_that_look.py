"""A field that looks at each letter for what is typed: a page that is pasted into it, and typed on, leaves it quick."""

from __future__ import annotations

import random
import time
from pathlib import Path

import pytest
from textual import events

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec

FIELDS = {
    "the finder": (["question_mark"], "find what to do"),
    "the rack": (["c", "slash"], "rack: 5 of 5"),
    "values": (["g", *"grade", "enter", "v", "slash"], "values"),
    "a row": (["enter", "slash"], "packs.csv"),
    "the prompt": (["w"], "cut ▸"),
    "the columns to go to": (["g"], "column"),
}
"""How to come to a field: the keys, and what is on the screen then."""
MOST_SECONDS = 25
"""Of processor time: what is slow for each letter takes minutes."""


def a_page(words: int) -> str:
    rng = random.Random(5)
    return " ".join("".join(rng.choices("abcdefgrstuo", k=rng.randint(2, 12))) for _ in range(words))


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.parametrize("field", FIELDS)
def test_a_pasted_page_is_typed_on(tmp_path: Path, field: str) -> None:
    keys, seen = FIELDS[field]
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows")
        await app.press(*keys)
        await app.until(seen)
        began = time.process_time()
        app.app.dispatcher.take(events.Paste(a_page(3_000)))  # type: ignore[attr-defined]
        await app.type("and no " * 12)
        await app.settled()
        for _ in range(4):
            await app.press("ctrl+g")
        await app.press("g")
        await app.until("120 rows")
        assert time.process_time() - began < MOST_SECONDS

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
