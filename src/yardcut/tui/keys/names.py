"""How keys are called on screen and in the docs."""

from __future__ import annotations

from textual.keys import _character_to_key, key_to_character

_SHOWN = {
    "question_mark": "?", "slash": "/", "full_stop": ".", "comma": ",", "semicolon": ";", "less_than_sign": "<",
    "greater_than_sign": ">", "right_square_bracket": "]", "left_square_bracket": "[", "escape": "Esc",
    "backspace": "Backspace", "delete": "Del", "enter": "Enter", "tab": "Tab", "space": "Space", "up": "↑", "down": "↓",
    "left": "←", "right": "→", "pageup": "PgUp", "pagedown": "PgDn", "home": "Home", "end": "End",
    "minus": "-", "plus": "+", "ampersand": "&", "colon": ":", "asterisk": "*",
    "apostrophe": "'",
}  # fmt: skip


NAMED = frozenset({
    "enter", "tab", "backspace", "delete", "insert", "space", "escape", "up", "down", "left", "right", "home", "end",
    "pageup", "pagedown",
})  # fmt: skip
"""Keys that every terminal sends by themselves, and that are no text (but for the blank)."""
CHARACTERS = frozenset(key for key in _SHOWN if key not in NAMED)
"""Keys named by Textual that type a character."""


def key_named(text: str) -> str:
    """Return the name of a key that people wrote as it is shown, or as it is called."""
    shown = {said.lower(): key for key, said in _SHOWN.items()}
    *modifiers, last = [text] if text in ("+", "-") else text.split("+") if len(text) > 1 else [text]
    if len(last) == 1:
        key = shown.get(last, last.lower() if modifiers else _character_to_key(last))
        return "+".join([*(each.lower() for each in modifiers), key])
    return "+".join([*(each.lower() for each in modifiers), shown.get(last.lower(), last.lower())])


def is_typed(key: str) -> bool:
    """Tell whether a key types a character where text is written."""
    return len(key) == 1 or key in CHARACTERS or key == "space"


def key_text(key: str) -> str:
    """Return a key as people read it."""
    if key in _SHOWN:
        return _SHOWN[key]
    if "+" in key:
        *modifiers, last = key.split("+")
        return "+".join([*modifiers, _SHOWN.get(last, last)])
    if key.startswith("f") and key[1:].isdigit():
        return key.upper()
    return (key_to_character(key) or key) if len(key) > 1 else key
