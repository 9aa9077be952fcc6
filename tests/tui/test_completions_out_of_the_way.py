"""The list of completions opens where something is to be completed, is small, and a key alone takes nothing."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec

WHOLE = [
    "keep grade = 'A'", "keep grade = 'A' ", "order price", "order price DESC ", "draw first 10 ", "drop price IS NULL ", "tally COUNT(*) per grade ",
    "columns ticket, grade ", "make x = price * 2 ", "keep price BETWEEN 100 AND 300 ",
]  # fmt: skip


@pytest.fixture
def packs(tmp_path: Path) -> SourceSpec:
    write_packs(tmp_path / "packs.csv", 120, 4)
    return SourceSpec(("packs.csv",), (), tmp_path)


@pytest.mark.long
def test_nothing_is_offered_over_a_whole_line_and_tab_leaves_it_alone(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        prompt = app.app._main.stage.prompt  # type: ignore[attr-defined]
        for text in WHOLE:
            if text.endswith(("'", "e")):  # a word stands at the cursor: it may be completed, and nothing joins it
                continue
            await app.press("w")
            await app.type(text)
            await app.until(f"▸ {text.strip()}")
            for _ in range(200):
                if prompt.has_options_for(text):
                    break
                await app.pause(0.02)
            assert not prompt.query_one("#completions").display, f"{text}\n{app.screen()}"
            await app.press("tab")
            assert prompt.text == text
            await app.press("down")
            assert prompt.query_one("#completions").display, text  # asked for, they are there
            await app.press("escape")

    drive(packs, steps)


def test_what_could_follow_is_taken_once_it_is_asked_for(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("w")
        await app.type("keep grade = 'A' ")
        await app.until("would leave")
        await app.settled()
        await app.press("down", "tab")
        await app.type("price > 200")
        await app.until("keep grade = 'A' AND price > 200")

    drive(packs, steps)


def test_tab_with_nothing_begun_does_nothing(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("w", "tab", "tab")
        assert app.app._main.stage.prompt.text == ""  # type: ignore[attr-defined]
        await app.type("ke")
        await app.press("tab")
        await app.press("tab")
        assert app.app._main.stage.prompt.text == "keep "  # type: ignore[attr-defined]
        await app.type("gra")
        await app.press("tab")
        await app.until("cut ▸ keep grade")

    drive(packs, steps)


@pytest.mark.parametrize("rows", [24, 34])
def test_the_table_is_still_there_while_completions_are_shown(packs: SourceSpec, rows: int) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        for text in ("", "keep ", "draw "):
            await app.press("w")
            await app.type(text)
            screen = await app.settled()
            assert "00003-31" in screen, f"{text}\n{screen}"
            await app.press("escape")

    drive(packs, steps, size=(80, rows))


@pytest.mark.long
def test_the_forms_of_an_order_are_completed(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        for typed, word in (
            ("nu", "NUMBER AWARE"),
            ("null", "NULLS FIRST"),
            ("ign", "IGNORING CASE"),
            ("in", "IN SEQUENCE ("),
        ):
            await app.press("w")
            await app.type(f"order grade {typed}")
            await app.until(word)
            await app.press("escape")

    drive(packs, steps)
