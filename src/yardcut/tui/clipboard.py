"""The clipboard of whoever sits there: the terminal's (OSC 52), and where the system has a program for it, its own."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
from typing import Any

from textual.app import App

MOST_CHARACTERS = 74_000
"""Some terminals take no more at once (as base64, 100,000 bytes); a system's program takes any size."""
_PROGRAMS = (
    ("WAYLAND_DISPLAY", ("wl-copy",)),
    ("DISPLAY", ("xclip", "-selection", "clipboard")),
    ("DISPLAY", ("xsel", "--clipboard", "--input")),
    ("", ("pbcopy",)),
)
_PATIENCE_SECONDS = 2.0


def to_terminal(app: App[Any], text: str) -> bool:
    """Hand a text to the terminal, which may let programs copy or not; tells whether it is not too much for one."""
    if len(text) > MOST_CHARACTERS:
        return False
    app.copy_to_clipboard(text)
    return True


def to_system(text: str) -> bool:
    """Hand a text to the system's program, if there is one; it may take a moment."""
    for variable, words in _PROGRAMS:
        program = shutil.which(words[0]) if not variable or os.environ.get(variable) else None
        if program is None:
            continue
        with contextlib.suppress(OSError, subprocess.SubprocessError):
            done = subprocess.run(
                [program, *words[1:]], input=text.encode("utf-8", "replace"), stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL, timeout=_PATIENCE_SECONDS, check=False,
            )  # fmt: skip
            if done.returncode == 0:
                return True
    return False
