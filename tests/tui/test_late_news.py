"""What is counted for a field that is left by now is no news: what is said stays what was done."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import pytest

from tui.driving import Driven, drive
from yardcut.tui.cards.lines import tree


@pytest.fixture
def table(tmp_path: Path) -> Path:
    path = tmp_path / "a.csv"
    path.write_text("n,w\n" + "".join(f"{n % 50},{'ab'[n % 2]}\n" for n in range(1_000)))
    return path


def test_a_text_that_is_still_looked_for(table: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from yardcut.core.run.looking import found_texts

    real = found_texts.find_text

    def slow(text: str, frame: Any, runner: Any, tell: Any, token: Any, progress: Any) -> Any:
        found = real(text, frame, runner, tell, token, progress)
        tell(found)
        time.sleep(0.6)
        return found

    monkeypatch.setattr(found_texts, "find_text", slow)

    async def steps(app: Driven) -> None:
        await app.until("1,000 rows")
        await app.press("slash")
        await app.type("b")
        await app.until("500 rows: w 500")
        await app.press("enter")
        await app.until("n the next match")
        await app.pause(1.0)
        assert "n the next match" in await app.settled()
        await app.press("n")
        await app.until("     4 ")

    drive(table, steps)


def test_what_a_piece_of_a_condition_would_leave(table: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    real = tree.count_offers

    def slow(moment: Any, offers: Any, tell: Any, token: Any, progress: Any) -> None:
        time.sleep(0.6)
        real(moment, offers, tell, token, progress)

    monkeypatch.setattr(tree, "count_offers", slow)

    async def steps(app: Driven) -> None:
        await app.until("1,000 rows")
        await app.line("keep n > 30 AND w = 'a'", "would leave 180")
        await app.press("tab", "r", "down", "enter", "end", "backspace")
        await app.type("1")
        await app.press("enter")
        await app.until("keep n > 31 AND w = 'a'")
        await app.pause(1.0)
        screen = await app.settled()
        assert "keep n > 31 AND w = 'a'" in screen
        assert "the line would leave" not in screen

    drive(table, steps)
