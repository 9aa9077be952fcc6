"""Random keys and sizes at the real app in a real terminal; what ends or deafens it is shrunk to few steps."""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

from reliability.yard import good_lines, write_packs

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from terminal import Terminal

_KEYS = [
    "Enter", "Tab", "BSpace", "DC", "Escape", "Up", "Down", "Left", "Right", "Home", "End", "PPage", "NPage", "F2", "F3", "F4",
    "F5", "F7", "F8", "F9", "C-g", "C-s", "C-l", "C-r", "S-Up", "S-Down", "C-Home", "C-End", "C-u", "C-w", "C-k", "F6",
]  # fmt: skip
_LETTERS = "wipRuUKlfgoexns .[];,<>/?'=510*-cchhmzrtlbCNPkd+&"
_SIZES = [(120, 34), (80, 24), (160, 47), (20, 5), (40, 5), (24, 60), (300, 12), (33, 11), (19, 4), (5, 2)]
_COUNT = 140
_SHRINKING = 24

Step = tuple[str, str]
"""What is done (``key``, ``type``, ``size``), and with what."""


def turn(seed: int, folder: Path) -> str | None:
    """Do random things; where that fails, look for fewer that fail too."""
    steps = some_steps(random.Random(seed))
    said = fails(steps, folder, "0")
    if said is None:
        return None
    shortest, tries = steps, 0
    size = len(steps) // 2
    while size and tries < _SHRINKING:
        for start in range(0, len(shortest), size):
            tries += 1
            fewer = shortest[:start] + shortest[start + size :]
            again = fails(fewer, folder, str(tries))
            if again is not None:
                shortest, said = fewer, again
                break
        else:
            size //= 2
    return f"{shortest!r}\n{said}"


def some_steps(rng: random.Random) -> list[Step]:
    """Return random keys, texts and sizes."""
    found: list[Step] = []
    for _ in range(_COUNT):
        chance = rng.random()
        if chance < 0.45:
            found.append(("key", rng.choice(_KEYS)))
        elif chance < 0.85:
            found.append(("type", rng.choice(_LETTERS)))
        elif chance < 0.95:
            found.append(("type", rng.choice([*good_lines(), "木材", "x" * 300, "~d", "\x1b[31m"])))
        else:
            columns, lines = rng.choice(_SIZES)
            found.append(("size", f"{columns} {lines}"))
    return found


def fails(steps: list[Step], folder: Path, name: str) -> str | None:
    """Do all steps in a new app; say what is wrong then, if anything is."""
    place = folder / name
    place.mkdir()
    write_packs(place / "packs.csv", 3_000, 1)
    app = Terminal(place, 120, 34, ["packs.csv"], XDG_STATE_HOME=str(place / "state"), EDITOR="true")
    try:
        app.until("3,000 rows")
        for kind, text in steps:
            if kind == "key":
                app.tmux("send-keys", text)
            elif kind == "type":
                app.type(text)
            else:
                columns, lines = text.split()
                app.tmux("resize-window", "-x", columns, "-y", lines)
        app.tmux("resize-window", "-x", "120", "-y", "34")
        return _leads_back(app) or _logged(place)
    except AssertionError as error:
        return f"{error}"
    finally:
        app.close()


def _leads_back(app: Terminal) -> str | None:
    """Check that it lives, that Escape leads back to the table, and that F3 answers."""
    screen = _settled(app)
    for _ in range(20):
        app.keys("C-g")
        screen = _settled(app)
        if app.ended():
            return f"it ended\n{screen}"
        last = screen.rstrip("\n").rpartition("\n")[2]
        if last.startswith((" table", " list")) and "╭" not in screen:
            app.keys("F3")
            app.until("find what to do", seconds=10)
            return None
    return f"C-g leads nowhere\n{screen}"


def _settled(app: Terminal) -> str:
    """Wait until the screen stands still: on a busy machine keys are still being carried out."""
    last, now = "", app.screen()
    for _ in range(40):
        if now == last:
            break
        time.sleep(0.5)
        last, now = now, app.screen()
    return now


def _logged(place: Path) -> str | None:
    log = place / "state" / "yardcut" / "yardcut.log"
    said = log.read_text("utf-8") if log.exists() else ""
    return said if "nobody foresaw" in said else None
