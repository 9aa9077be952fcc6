"""The page of keys in the docs, made from the keymap: ``python -m yardcut.tui.keys.page > docs/keys.md``."""

from __future__ import annotations

from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.names import key_text

_INTRODUCTION = """\
# Keys

Made from the table in `src/yardcut/tui/keys/actions.py`; `?` shows the same by task and finds it by words.
Escape is slow on some connections: ctrl+g does the same.
"""


def keys_page() -> str:
    """Return the page as Markdown."""
    parts = [_INTRODUCTION]
    for focus in Focus:
        parts.append(f"\n## {focus.value}\n\n| keys | what happens |\n|---|---|\n")
        for key in ACTIONS:
            if key.focus == focus:
                keys = " ".join(f"`{key_text(name)}`" for name in key.keys)
                parts.append(f"| {keys} | {key.help} |\n")
    return "".join(parts)


if __name__ == "__main__":
    print(keys_page(), end="")
