"""Any key, at any moment from the first byte on, is kept and carried out, or ignored; the app never dies of it.

``YARDCUT_STARTS=50`` makes it a long run.
"""

from __future__ import annotations

import os
import random
import time
from collections.abc import Callable

import pytest

from terminal import Terminal
from thoroughness import some

Start = Callable[..., Terminal]
STARTS = int(os.environ.get("YARDCUT_STARTS", "2"))
NAMED = ["Enter", "Tab", "BSpace", "DC", "Escape", "Up", "Down", "Left", "Right", "Home", "End", "PPage", "NPage", "F2",
         "F3", "F4", "F5", "F7", "F8", "F9", "C-g", "C-s", "C-l", "C-r", "S-Up", "S-Down", "C-Home", "C-End"]  # fmt: skip
LETTERS = "wipRuUlfgo.exn?/[],<>abcdk'= 5"


def at_rest(app: Terminal) -> bool:
    """Tell whether a panel has the focus, and no card or prompt is open."""
    return app.screen().rstrip("\n").rpartition("\n")[2].startswith((" table ", " list "))


def come_to_rest(app: Terminal) -> None:
    """Wait until all that was typed has been carried out, then go back step by step."""
    before, since, end = app.screen(), time.monotonic(), time.monotonic() + 60
    while time.monotonic() - since < 1.5 and time.monotonic() < end:
        time.sleep(0.1)
        now = app.screen()
        if now != before:
            before, since = now, time.monotonic()
    for _ in range(12):
        app.keys("Escape")
        time.sleep(0.3)
        if at_rest(app) and "╭" not in app.screen():
            return
    raise AssertionError(f"Escape leads nowhere\n{app.screen()}")


@pytest.mark.parametrize("seed", range(STARTS))
def test_random_keys_while_the_app_starts(start: Start, seed: int) -> None:
    rng = random.Random(seed)
    app = start(columns=120, rows=34, EDITOR="true")
    time.sleep(rng.choice([0, 0, 0.1, 0.3, 0.6, 1.0]))
    keys = [rng.choice(NAMED) if rng.random() < 0.4 else rng.choice(LETTERS) for _ in range(200)]
    for at in range(0, len(keys), 20):
        app.tmux("send-keys", *keys[at : at + 20])
        time.sleep(rng.choice([0, 0.02, 0.05]))
    come_to_rest(app)
    app.keys("w")
    app.until("cut ▸")
    app.keys("Escape")
    app.until("cut ▸", gone=True)


def test_a_whole_cut_can_be_typed_before_the_first_paint(start: Start) -> None:
    app = start()
    app.type("wdrop bay = 'ALL BAYS'\rwkeep grad = 'A'")
    app.keys("F2", "Enter")
    app.type("gprice_per\r")
    screen = app.until("1 drop    bay = 'ALL BAYS'", "2!keep    grade = 'A'", "price_per_m3  integer 61  as of line 2")
    assert "1,065" in screen


@pytest.mark.parametrize("key", some(["R", "C-s", ".", "i", "p", "F4", "Tab"], 2))
def test_a_key_pressed_at_once_is_carried_out(start: Start, key: str) -> None:
    app = start()
    app.taken()
    app.keys(key)
    seen = {
        "i": "lines that change how it is read", "p": "all columns, the source", "F4": "save list ▸", "R": "read again: 7,650 rows",
        "Tab": " list  w write", "C-s": "save slice ▸", ".": "1 keep    ticket = '00000-31'",
    }  # fmt: skip
    app.until(seen[key])


@pytest.mark.long
def test_escape_and_a_letter_are_two_keys(start: Start) -> None:
    app = start()
    app.until("7,650 rows × 71 columns", "no lines yet")
    app.keys("w")
    app.type("keep grade = 'A'")
    app.until("would leave")
    app.tmux("send-keys", "-l", "\x1bp")
    app.until("all columns, the source")
    app.tmux("send-keys", "-l", "\x1b.")
    app.until("1 keep    ticket = '00000-31'")
