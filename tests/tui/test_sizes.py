"""Every size from 20x5 up draws and answers; below, one line says that it is too small."""

from __future__ import annotations

from pathlib import Path

import pytest

from thoroughness import some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.tui.widgets.footer import Footer

SIZES = [(20, 5), (300, 5), (20, 60), (60, 16)]
CARDS = {"question_mark": "filter", "p": "ticket", "i": "ticket  text", "f": "ticket"}


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)
    return path


@pytest.mark.long
@pytest.mark.parametrize("size", some(SIZES, 2), ids=str)
def test_it_draws_and_answers(packs: Path, size: tuple[int, int]) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.resize(*size)
        for key, seen in CARDS.items():
            await app.press(key)
            await app.until(seen)
            for move in ("pagedown", "down", "pageup", "end", "home"):
                await app.press(move)
            await app.press("escape")
            await app.until("packs.csv")
        await app.press("w")
        await app.type("draw first 7")
        await app.until("draw first 7")
        await app.press("enter")
        await app.resize(160, 47)
        await app.until("7 rows left")
        await app.resize(*size)
        await app.press("tab", "up", "x", "tab", "u", "pagedown", "end", "home")
        await app.press("g", "3", "enter")
        lines = (await app.settled()).splitlines()
        assert lines[-1].startswith(" table"), lines
        assert "packs.csv" in lines[0]

    drive(packs, steps)


@pytest.mark.few(1)
@pytest.mark.parametrize("size", [(19, 24), (80, 4), (1, 1)], ids=str)
def test_below_it_one_line_says_so_and_keys_still_count(packs: Path, size: tuple[int, int]) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.resize(*size)
        screen = await app.settled()
        assert f"{size[0]}×{size[1]} is too small"[: size[0]] in screen
        assert len(screen.split()) <= 4
        for key in ("i", "pagedown", "escape", "p", "pagedown", "escape", "question_mark", "escape", "full_stop"):
            await app.press(key)
        await app.resize(120, 34)
        await app.until("1 row left")

    drive(packs, steps)


@pytest.mark.long
@pytest.mark.parametrize("size", some([(100, 34), (160, 47)], 1), ids=str)
def test_the_keys_of_every_card_are_told_whole(packs: Path, size: tuple[int, int]) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.line("keep boards >= 20")
        await app.resize(*size)
        await app.press("right")
        told = 0
        for opens in (
            ["v"],
            ["enter"],
            ["C"],
            ["p"],
            ["i"],
            ["f"],
            ["h"],
            ["P"],
            ["colon"],
            ["y"],
            ["O"],
            ["tab", "r"],
        ):
            await app.press(*opens)
            await app.settled()
            card, shown = app.app.screen, " ".join(app.screen().split())
            for footer in card.query(Footer):
                words = str(footer.render()).split()
                told += len(words)
                missing = [word for word in words if word not in shown]
                assert not missing, f"{opens}: {missing}\n{app.screen()}"
            await app.press("escape", "escape")
        assert told > 60

    drive(packs, steps)


@pytest.mark.long
def test_what_is_counted_is_seen_at_eighty_columns(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.line("keep boards >= 20 AND (grade = 'A' OR price > 400)", "would leave")
        await app.press("tab", "end", "r")
        screen = await app.until("passes", "costs", "no answer", "boards >= 20")
        row = next(line for line in screen.splitlines()[-16:] if "boards >= 20" in line and "│" in line)
        assert "−" in row, screen  # what the part costs
        await app.press("escape", "tab", "enter")
        await app.until("keep leaves", "drop leaves", "this very value")
        assert "119" in await app.settled() or "…" not in app.screen().split("drop leaves")[1].split("Esc")[0]
        await app.press("escape", "question_mark")
        await app.type("percent")
        await app.until("make share = volume_m3")

    drive(packs, steps, size=(80, 24))
