"""Keys, clicks, pasted text and sizes at random: the app never ends nor fails, Escape leads back, F3 answers.

``YARDCUT_KEYS=2000`` makes it a long run, ``YARDCUT_SEEDS=21-40`` other ones.
"""

from __future__ import annotations

import contextlib
import os
import random
from pathlib import Path

import pytest
from textual import events

from thoroughness import IS_LONG
from tui.driving import Driven, drive
from tui.gate import Gate, gated
from tui.plain_truth import write_packs
from yardcut.tui.finder.finder import FinderCard

COUNT = int(os.environ.get("YARDCUT_KEYS", "70" if IS_LONG else "45"))
KEYS = ["enter", "tab", "backspace", "delete", "escape", "up", "down", "left", "right", "home", "end", "pageup", "pagedown",
        "f2", "f3", "f4", "f5", "f6", "f7", "f8", "f9", "ctrl+g", "ctrl+s", "ctrl+l", "ctrl+r", "shift+up", "shift+down",
        "ctrl+home", "ctrl+end", "ctrl+u", "ctrl+w", "ctrl+k"]  # fmt: skip
SIZES = [(120, 34), (80, 24), (160, 47), (20, 5), (40, 5), (24, 60), (300, 6), (33, 11), (19, 4), (1, 1)]
LETTERS = {" ": "space", ".": "full_stop", ",": "comma", ";": "semicolon", "/": "slash", "?": "question_mark",
           "<": "less_than_sign", ">": "greater_than_sign", "[": "left_square_bracket", "]": "right_square_bracket"}  # fmt: skip
TYPED = "wipRuUKlfgoexns .[];,<>/?'=510*-"
PASTED = ["keep grade = 'A'", "drop species == oak", "make m = boards / knots", "order price_per_m3 DESC", "draw random 5",
          "draw chance 1 in 10", "columns ticket, grade", "columns all", "kind boards text", 'save "x.csv"', "~d", "order #3",
          "make grade = ABS(boards)", "draw top 5 by m per species", "keep m > 3 OR NOT remark = 'x'", "\x1b[31m", "a\nb",
          "off keep reserved", "draw first 0", "keep boards > 1,000", "\x00", "木材", "x" * 400]  # fmt: skip


def seeds() -> list[int]:
    first, _, last = os.environ.get("YARDCUT_SEEDS", "11").partition("-")
    return list(range(int(first), int(last or first) + 1))


def some_event(rng: random.Random) -> events.Key | events.Paste:
    chance = rng.random()
    if chance < 0.45:
        return events.Key(rng.choice(KEYS), None)
    if chance < 0.85:
        letter = rng.choice(TYPED)
        return events.Key(LETTERS.get(letter, letter), letter)
    return events.Paste(rng.choice(PASTED))


@pytest.mark.parametrize("seed", seeds())
def test_the_app_goes_on_whatever_is_typed(
    yard: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int
) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("EDITOR", "true")
    monkeypatch.setattr("textual.app.App.suspend", lambda app: contextlib.nullcontext())
    rng = random.Random(seed)

    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns")
        take = app.app.dispatcher.take  # type: ignore[attr-defined]
        for count in range(1, COUNT + 1):
            event = some_event(rng)
            if not take(event):
                app.app.screen._forward_event(event)
            if rng.random() < 0.05:
                await app.click(rng.randrange(app.app.size.width), rng.randrange(app.app.size.height))
            if rng.random() < 0.03:
                await app.resize(*rng.choice(SIZES))
            await app.pause(rng.choice([0, 0, 0, 0.01, 0.05]))
            if count % 75 == 0:
                await app.resize(120, 34)
                await _leads_back_and_answers(app)
            app.end()

    drive(yard / "yard_2031.csv", steps, size=(120, 34))


@pytest.mark.long
@pytest.mark.parametrize("seed", seeds())
def test_the_app_goes_on_while_a_source_is_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("EDITOR", "true")
    monkeypatch.setattr("textual.app.App.suspend", lambda app: contextlib.nullcontext())
    rng = random.Random(seed)
    write_packs(tmp_path / "packs.csv", 2000, seed)

    async def steps(app: Driven, gate: Gate) -> None:
        await app.until("packs.csv")
        gate.let(3)
        take = app.app.dispatcher.take  # type: ignore[attr-defined]
        for count in range(1, COUNT + 1):
            event = some_event(rng)
            if not take(event):
                app.app.screen._forward_event(event)
            if rng.random() < 0.15:
                gate.let(1)
            await app.pause(rng.choice([0, 0, 0, 0.01, 0.05]))
            if count % 75 == 0 or count == COUNT:
                await _leads_back_and_answers(app)
            app.end()

    with gated(monkeypatch, 1500) as gate:

        async def go(app: Driven) -> None:
            try:
                await steps(app, gate)
            finally:
                gate.let(10**6)

        drive(tmp_path / "packs.csv", go, size=(120, 34))


async def _leads_back_and_answers(app: Driven) -> None:
    take = app.app.dispatcher.take  # type: ignore[attr-defined]
    await app.settled()
    was_help = isinstance(app.app.screen, FinderCard)
    take(events.Key("f3", None))
    await app.settled()
    assert isinstance(app.app.screen, FinderCard) is not was_help, f"F3 answers nothing\n{app.screen()}"
    for _ in range(14):
        take(events.Key("ctrl+g", None))
        last = (await app.settled()).rstrip("\n").splitlines()[-1]
        if last.startswith((" table ", " list ")) and len(app.app.screen_stack) == 1:
            return
    raise AssertionError(f"ctrl+g leads nowhere\n{app.screen()}")
