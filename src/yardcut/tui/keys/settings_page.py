"""The page of settings, made from the tables: ``python -m yardcut.tui.keys.settings_page > docs/settings.md``."""

from __future__ import annotations

from yardcut.core.settings.entries import ENTRIES
from yardcut.core.settings.example import example_file
from yardcut.core.settings.settings_in_force import KEYS
from yardcut.tui.keys.actions import ACTIONS
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.names import key_text
from yardcut.tui.theme import THEMES

_INTRODUCTION = """\
# Settings

A file `config.toml` in your configuration directory (`~/.config/yardcut/` on most systems), in TOML. It need not be
there. `yardcut settings` prints what is in force and where each value comes from; `yardcut settings --example` prints a
whole file to begin with. A variable of the environment stands before the file.

**Nothing here changes which rows a cut takes, or a byte of what is written.** What does stands in the list: the seed of
a draw, the texts that mean missing. What is matched, copied and offered as a condition is a value's shortest exact
form, whatever the screen shows.

An entry that cannot be taken is told with its line and what would mend it; its default counts, and the app starts.

| entry | what it is for | example | environment |
|---|---|---|---|
"""
_KEYS = """
Themes: {themes}.

## Keys

In `[{section}]` an action gets other keys in place of its own, one or several; the first is the one on screen. Keys are
written as they are shown: `"u"`, `"."`, `"Del"`, `"F11"`, `"ctrl+r"`, `"shift+up"`. The footer, the page of keys (`?`),
cards and messages show yours.

```toml
[{section}]
undo = ["u", "F11"]
keep-value = "="
```

Refused by name, with what would mend it: a key of something else in the same place, one that no terminal sends, and one
that a text field needs.
"""


def settings_page() -> str:
    """Return the page as Markdown."""
    parts = [_INTRODUCTION]
    parts += [
        f"| `{entry.id}` | {entry.meaning} | `{entry.name} = {entry.example}` | `{entry.variable}` |\n"
        for entry in ENTRIES
    ]
    parts.append(_KEYS.format(themes=", ".join(f"`{theme.name}`" for theme in THEMES), section=KEYS))
    for focus in Focus:
        own = [action for action in ACTIONS if action.focus is focus]
        if own:
            parts.append(f"\n### {focus.value}\n\n| action | keys | what it does |\n|---|---|---|\n")
            for action in own:
                keys = " ".join(f"`{key_text(name)}`" for name in action.keys)
                parts.append(f"| `{action.id}` | {keys} | {action.help} |\n")
    parts.append(f"\n## A whole file\n\n```toml\n{example_file()}```\n")
    return "".join(parts)


if __name__ == "__main__":
    print(settings_page(), end="")
