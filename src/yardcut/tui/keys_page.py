"""The page of keys in the docs, made from the keymap: ``python -m yardcut.tui.keys_page > docs/keys.md``."""

from __future__ import annotations

from yardcut.tui.keymap import KEYS, key_text

_FOCUS = {
    "anywhere": "Anywhere",
    "grid": "In the table",
    "list": "On the list",
    "prompt": "While a line is written",
    "ask": "While a question is answered in the prompt's place",
}
_INTRODUCTION = """\
# Keys

Made from the table in `src/yardcut/tui/keymap.py`; `?` shows the same by task and finds it by words.
Escape is slow on some connections: ctrl+g does the same.
"""


def keys_page() -> str:
    """Return the page as Markdown."""
    parts = [_INTRODUCTION]
    for focus, title in _FOCUS.items():
        parts.append(f"\n## {title}\n\n| keys | what happens |\n|---|---|\n")
        for key in KEYS:
            if key.focus == focus:
                keys = " ".join(f"`{key_text(name)}`" for name in key.keys)
                parts.append(f"| {keys} | {key.help} |\n")
    return "".join(parts)


if __name__ == "__main__":
    print(keys_page(), end="")
