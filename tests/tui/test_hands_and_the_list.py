"""Random keys on every card and screen: the list afterwards is what the table of actions says, and nothing else.

The table says of each action whether it may edit the list, take an edit back or do it again; a key that is no action
there edits nothing. ``YARDCUT_KEYS`` makes it longer, ``YARDCUT_SEEDS=21-40`` other ones, ``YARDCUT_TRIED`` names a file
for the actions that were tried.
"""

from __future__ import annotations

import contextlib
import os
import random
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from textual import events

from thoroughness import IS_LONG
from tui.driving import Driven, drive
from yardcut.core.cutlist.model import CutList
from yardcut.core.language.syntax.dial_lines import parse_dial
from yardcut.tui.keys.actions import ACTIONS, Action
from yardcut.tui.keys.focus import Edits, Focus, Need
from yardcut.tui.keys.keymap import keymap

COUNT = int(os.environ.get("YARDCUT_KEYS", "40" if IS_LONG else "22"))
LINES = ["keep grade = 'A'", "drop species = 'oak' OR boards > 30", "make m = boards / 2", "order price_per_m3 DESC, ticket",
         "draw random 5 per species", "draw top 40 by boards", "columns ticket, grade, boards", "keep boards > :shortest AND species IN (:kinds)", "off keep reserved",
         "tally COUNT(*), SUM(boards) AS boards per species, grade"]  # fmt: skip
WAYS = {
    "the tree": ("drop", "r"), "the keys of an order": ("order", "r"), "a draw": ("draw", "d"), "the parts of a tally": ("tally", "r"), "a picture": ("draw", "P"),
    "the rows it took": ("keep", "o"), "why so few": ("keep", "y"), "dials": ("", "colon"), "a dial's values": ("", "colon", "down", "v"),
    "cuts": ("", "C"), "two cuts compared": ("", "ctrl+n", "C", "up", "v"), "the rack": ("", "c"), "a cell": ("keep", "enter"),
    "bounds": ("draw", "g", *"price", "enter", "v"), "values": ("draw", "g", *"grade", "enter", "v"), "the reasons": ("drop", "o", "O"),
}  # fmt: skip
"""How to come to cards that are seldom met by chance: a line of what verb is selected, and the keys."""
TEXTS = ["oak", "2", "boards > 3", "x", "boards", "ticket DESC"]
_WORDLESS = {
    "leave",
    "theme",
    "editor",
    "save",
    "save-list",
    "plank",
    "source-save",
    "picture-save",
    "values-save",
    "saving-done",
}
"""Actions that write files, or leave: others try them."""
_CHARACTERS = {"question_mark": "?", "full_stop": ".", "comma": ",", "semicolon": ";", "less_than_sign": "<", "greater_than_sign": ">",
               "right_square_bracket": "]", "left_square_bracket": "[", "slash": "/", "minus": "-", "plus": "+", "ampersand": "&", "colon": ":",
               "space": " "}  # fmt: skip


def seeds() -> list[int]:
    first, _, last = os.environ.get("YARDCUT_SEEDS", "5").partition("-")
    return list(range(int(first), int(last or first) + 1))


State = tuple[CutList, int]
Texts = list[str]


class Told:
    """The states of the list as the table of actions tells them."""

    def __init__(self, now: State) -> None:
        self.now = now
        self._past: list[tuple[State, bool]] = []
        self._future: list[State] = []

    def go(self, edits: Edits, after: State) -> str | None:
        """Take what came after an action; say what is wrong with it."""
        before, self.now = self.now, after
        if edits is Edits.NEVER:
            return None if after == before else "it edits the list"
        if edits is Edits.BACK:
            return self._back(before, after)
        if edits is Edits.FORTH:
            expected = self._future.pop() if self._future else before
            if expected != before:
                self._past.append((before, False))
            return None if after == expected else "what was taken back is not done again"
        if after != before:
            self._past.append((before, edits is Edits.SERIES))
            self._future.clear()
        return None

    def _back(self, before: State, after: State) -> str | None:
        if not self._past:
            return None if after == before else "there was nothing to take back"
        self._future.append(before)
        while self._past:
            state, is_series = self._past.pop()
            if state == after:
                return None
            if not is_series:  # some edits in series are one
                break
        return "the edit is not taken back"


def _swapped(by: int) -> Callable[[Texts, int], Texts]:
    def swap(texts: Texts, at: int) -> Texts:
        other = at + by
        if at >= 0 and 0 <= other < len(texts):
            texts[at], texts[other] = texts[other], texts[at]
        return texts

    return swap


def _switched(texts: Texts, at: int) -> Texts:
    text = texts[at]
    return [*texts[:at], text.removeprefix("off ") if text.startswith("off ") else f"off {text}", *texts[at + 1 :]]


EXACTLY: dict[str, Callable[[Texts, int], Texts]] = {
    "off": _switched,
    "delete": lambda texts, at: texts[:at] + texts[at + 1 :],
    "move-up": _swapped(-1),
    "move-down": _swapped(1),
    "clear-off": lambda texts, _: [text for text in texts if not text.startswith("off ")],
}
"""What the lines are afterwards, by an action on the list, from its sentence in the table."""


def _said_wrongly(action: Action, before: State, after: State, at: int) -> str | None:
    expected = EXACTLY.get(action.id)
    if expected is None or (at < 0 and action.need is Need.LINE):
        return None
    wanted = expected([line.text for line in before[0].cuts[before[1]].lines], at)
    found = [line.text for line in after[0].cuts[after[1]].lines]
    return None if found == wanted else f"{wanted} was to be left, {found} is"


class Hands:
    """Presses keys of actions at random, and looks at the list after each."""

    def __init__(self, app: Driven, rng: random.Random) -> None:
        self._app = app
        self._rng = rng
        self._took: Callable[[events.Key], bool] = app.app.dispatcher.take  # type: ignore[attr-defined]
        self._told = Told(self._state())
        self.done: list[str] = []
        self.tried: Counter[str] = Counter()

    def enter(self, text: str) -> None:
        """Begin with a line."""
        self._desk().edits.enter(text, len(self._desk().now.lines) - 1)
        self._told.go(Edits.ONCE, self._state())

    def set_dials(self, *texts: str) -> None:
        """Begin with dials."""
        for text in texts:
            self._desk().edits.set_dial(parse_dial(text))
            self._told.go(Edits.ONCE, self._state())

    def _place(self) -> Any:
        return next(screen for screen in reversed(self._app.app.screen_stack) if hasattr(screen, "takes_keys"))

    def _desk(self) -> Any:
        return self._app.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]

    def _state(self) -> State:
        now = self._desk().now
        return now.cut_list, now.cut_index

    async def some_key(self) -> None:
        """Press a key that is an action here, or a letter into a field; from the table, go some way now and then."""
        place = self._place()
        if place.focus_now is Focus.GRID and self._rng.random() < 0.4:
            verb, *keys = self._rng.choice(list(WAYS.values()))
            found = [at for at, line in enumerate(self._desk().now.lines) if line.line.verb == verb]
            self._desk().select(self._rng.choice(found or [len(self._desk().now.lines) - 1]))
            for key in ["tab", *keys] if keys == ["r"] else keys:
                await self._press(key, _CHARACTERS.get(key, key if len(key) == 1 else None))
            return
        if place.takes_text and self._rng.random() < 0.25:
            for letter in self._rng.choice(TEXTS):
                await self._press(letter if letter.isalnum() else "space" if letter == " " else letter, letter)
            return
        actions = [
            action
            for action in ACTIONS
            for key in action.keys
            if keymap().action_for(place.focus_now, key) is action and action.id not in _WORDLESS
        ]
        away = [action for action in actions if action.id.endswith(("away", "stop"))]
        some = self._rng.choices(away if self._rng.random() < 0.2 else actions, k=3)
        action = min(some, key=lambda one: self.tried[one.id])
        self.tried[action.id] += 1
        key = self._rng.choice(action.keys)
        await self._press(key, _CHARACTERS.get(key, key if len(key) == 1 else None))

    async def _press(self, key: str, character: str | None) -> None:
        place = self._place()
        focus, is_text = place.focus_now, place.takes_text and character is not None
        action = None if is_text else keymap().action_for(focus, key)
        if place.takes_text and key in ("backspace", "delete", "home", "end"):
            action = None
        before, selected = self._state(), self._desk().now.selected
        event = events.Key(key, character)
        if not self._took(event):
            self._app.app.screen._forward_event(event)
        await self._app.settled()
        self._app.end()
        self.done.append(f"{focus.name} {key}" + (f" ({action.id})" if action else ""))
        wrong = self._told.go(action.edits if action else Edits.NEVER, self._state())
        if wrong is None and action is not None and focus is Focus.LIST:
            wrong = _said_wrongly(action, before, self._state(), selected)
        assert wrong is None, (
            f"{wrong}: {self.done[-12:]}\n{_texts(before)}\n{_texts(self._state())}\n{self._app.screen()}"
        )


def _texts(state: State) -> str:
    return "; ".join(line.text for line in state[0].cuts[state[1]].lines)


@pytest.mark.parametrize("seed", seeds())
def test_the_list_is_what_the_table_of_actions_says(
    yard: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int
) -> None:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("EDITOR", "true")
    monkeypatch.setattr("textual.app.App.suspend", lambda app: contextlib.nullcontext())
    rng = random.Random(seed)

    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns")
        while app.app.screen_stack[0].stage.desk is None:  # type: ignore[attr-defined]
            await app.pause(0.05)
        hands = Hands(app, rng)
        hands.set_dials("dial shortest = 3", "dial kinds = 'oak', 'ash' from column species")
        for text in rng.sample(LINES, len(LINES)):
            hands.enter(text)
        await app.settled()
        while len(hands.done) < COUNT:
            await hands.some_key()
        if "YARDCUT_TRIED" in os.environ:
            with Path(os.environ["YARDCUT_TRIED"]).open("a") as file:
                file.writelines(f"{name} {count}\n" for name, count in hands.tried.items())

    drive(yard / "yard_2031.csv", steps, size=(120, 34))
