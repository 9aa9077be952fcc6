"""What the command line says on standard error: plain, and never the reason why something is not done."""

from __future__ import annotations

import contextlib
import os
import sys

import click

from yardcut.core.shortening import shortened


def plain(text: str) -> str:
    """Return a text with nothing in it that a terminal would obey."""
    return "".join(char if char.isprintable() else "·" for char in text)


def say(text: str, *, over_progress: bool = False) -> None:
    """Say one or more lines, of very long ones the ends.

    Where they cannot be written (a full disk, a closed pipe) the work goes on without.

    ``over_progress`` wipes the line of progress that may stand there.
    """
    wipe = "\r\x1b[K" if over_progress and sys.stderr.isatty() else ""
    lines = [plain(shortened(line)) for line in text.split("\n")]
    with contextlib.suppress(OSError):
        click.echo(wipe + "\n".join(lines), err=True)


def show_progress(sentence: str) -> None:
    """Show how far work has come, on one line of a terminal that is written again and again; "" wipes it."""
    with contextlib.suppress(OSError):
        click.echo(f"\r\x1b[K{plain(sentence)}", err=True, nl=False)


def give_up_output() -> None:
    """Let nothing more be written to a standard output that takes nothing, not at the end of the process either."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
