"""A whole settings file, each entry with its meaning; all are commented out, and stand as they are by default."""

from __future__ import annotations

from itertools import groupby

from yardcut.core.settings.entries import ENTRIES
from yardcut.core.settings.settings_in_force import KEYS


def example_file() -> str:
    """Return the text of the file."""
    lines = ["# Settings of Yard Cut. None of them changes the rows of a cut, or what is written of them.", ""]
    for section, entries in groupby(ENTRIES, key=lambda entry: entry.section):
        lines.append(f"[{section}]")
        for entry in entries:
            lines += [f"# {entry.meaning}", f"# {entry.name} = {entry.example}", ""]
    lines += [
        f"[{KEYS}]",
        "# an action's keys in place of its own; docs/settings.md names the actions",
        '# undo = ["u", "F11"]',
    ]
    return "\n".join(lines) + "\n"
