"""A user's own keys: read from the settings, and refused by name where one collides, never comes, or is a field's."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from yardcut.core.errors import Mend, SettingsError
from yardcut.core.settings.settings_in_force import KEYS, Settings
from yardcut.tui.keys.actions import ACTIONS, Action
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import Keymap
from yardcut.tui.keys.names import CHARACTERS, NAMED, key_named, key_text

_TYPED_IN = (Focus.PROMPT, Focus.QUESTION, Focus.FIND)
"""Where letters are always text."""
_OF_FIELDS = frozenset(
    {"backspace", "delete", "left", "right", "home", "end", "ctrl+u", "ctrl+w", "ctrl+k", "ctrl+a", "ctrl+e"}
)
_CONTROL = frozenset("defgklnoprstuwxyzcqa")
"""Letters that a terminal sends with ctrl as no other key."""
_WITH_MODIFIERS = frozenset({"up", "down", "left", "right", "home", "end", "pageup", "pagedown"})


def arrives(key: str) -> bool:
    """Tell whether a key comes through tmux, ssh and a plain terminal."""
    if key in NAMED or key in CHARACTERS or len(key_text(key)) == 1:
        return True
    if re.fullmatch(r"f([1-9]|1[0-2])", key):
        return True
    modifier, _, last = key.rpartition("+")
    if modifier in ("shift", "ctrl", "alt"):
        return last in _WITH_MODIFIERS or (modifier == "ctrl" and last in _CONTROL)
    return False


def own_keymap(settings: Settings) -> tuple[Keymap, list[SettingsError]]:
    """Return the keys in force under some settings, and what of them is refused: there the table's own keys stay."""
    troubles: list[SettingsError] = []
    wanted: dict[str, tuple[str, ...]] = {}
    ids = {action.id: action for action in ACTIONS}
    for name, written in settings.keys.items():
        found = _keys_of(name, written, ids, settings)
        if isinstance(found, SettingsError):
            troubles.append(found)
        else:
            wanted[name] = found
    while (clash := _clash(wanted, settings)) is not None:
        name, error = clash
        del wanted[name]
        troubles.append(error)
    return Keymap(_with(wanted)), troubles


def _with(wanted: Mapping[str, tuple[str, ...]]) -> Sequence[Action]:
    return [replace(action, keys=wanted.get(action.id, action.keys)) for action in ACTIONS]


def _keys_of(name: str, written: Any, ids: Mapping[str, Action], settings: Settings) -> tuple[str, ...] | SettingsError:
    place = settings.place_of(KEYS, name)

    def wrong(message: str, mend: str) -> SettingsError:
        return SettingsError(f"{name} in [{KEYS}]: {message}", place=place, mend=Mend(mend))

    if name not in ids:
        from yardcut.core.near import nearest  # here: the package behind it takes a while to load

        near = nearest(name, list(ids), 1)
        return wrong("there is no such action", f"did you mean {near[0]}?" if near else "docs/settings.md lists them")
    texts = [written] if isinstance(written, str) else written
    if not isinstance(texts, list) or not texts or not all(isinstance(text, str) and text for text in texts):
        return wrong("it takes one key or several", f'for example: {name} = ["{key_text(ids[name].keys[0])}", "F11"]')
    keys = tuple(key_named(text) for text in texts)
    for text, key in zip(texts, keys, strict=True):
        if not arrives(key):
            return wrong(
                f"no terminal sends {text} as a key of its own", "letters, marks, F1 to F12, ctrl with a letter"
            )
        is_text = len(key_text(key)) == 1 or key == "space"
        if ids[name].focus in _TYPED_IN and (is_text or key in _OF_FIELDS):
            return wrong(f"the field needs {text} where this is", "F1 to F12, or ctrl with a letter, are free there")
    return keys


def _clash(wanted: Mapping[str, tuple[str, ...]], settings: Settings) -> tuple[str, SettingsError] | None:
    """Find a key that would mean two things at once, and whose own it is."""
    actions = _with(wanted)
    for action in actions:
        if action.id not in wanted:
            continue
        for other in actions:
            if other is action or not _meet(action.focus, other.focus):
                continue
            for key in set(action.keys) & set(other.keys):
                if key in _default(action) and key in _default(other):
                    continue  # a card's own key stands before those of all lists of choices
                message = f"{action.id} in [{KEYS}]: {key_text(key)} is the key of {other.id} there"
                mend = Mend(f"give {other.id} another key too, or take another one here")
                return action.id, SettingsError(message, place=settings.place_of(KEYS, action.id), mend=mend)
    return None


def _default(action: Action) -> tuple[str, ...]:
    return next(each.keys for each in ACTIONS if each.id == action.id)


def _meet(one: Focus, other: Focus) -> bool:
    """Tell whether keys of two places are looked for at the same time."""
    return any(one in focus.homes and other in focus.homes for focus in Focus)
