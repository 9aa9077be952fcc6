"""How keys are called on screen and in the docs."""

from __future__ import annotations

_SHOWN = {
    "question_mark": "?", "slash": "/", "full_stop": ".", "comma": ",", "semicolon": ";", "less_than_sign": "<",
    "greater_than_sign": ">", "right_square_bracket": "]", "left_square_bracket": "[", "escape": "Esc",
    "backspace": "Backspace", "delete": "Del", "enter": "Enter", "tab": "Tab", "space": "Space", "up": "↑", "down": "↓",
    "left": "←", "right": "→", "pageup": "PgUp", "pagedown": "PgDn", "home": "Home", "end": "End",
    "minus": "-", "plus": "+", "ampersand": "&", "colon": ":",
}  # fmt: skip


def key_text(key: str) -> str:
    """Return a key as people read it."""
    if key in _SHOWN:
        return _SHOWN[key]
    if "+" in key:
        *modifiers, last = key.split("+")
        return "+".join([*modifiers, _SHOWN.get(last, last)])
    return key.upper() if key.startswith("f") and key[1:].isdigit() else key
