"""Keeping what is typed while the app starts: from the program's first moment keys are kept as they are, unechoed."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress

_NOT_THE_APP = ("cut", "run", "check", "gauge", "sql", "-h", "--help", "--version")


def opens_the_app(words: list[str]) -> bool:
    """Tell whether a command line opens the app."""
    if not words or words[0] in _NOT_THE_APP:
        return False
    return not any(word in ("-h", "--help", "--write") or word.startswith("--write=") for word in words)


@contextmanager
def keys_kept(words: list[str]) -> Iterator[None]:
    """Let the terminal hold every key for the app: none is echoed, turned into another, or stops the output.

    ctrl+c still ends the program. At the end the terminal is as it was.
    """
    if not opens_the_app(words) or not sys.stdin.isatty():
        yield
        return
    import termios

    terminal = sys.stdin.fileno()
    try:
        before = termios.tcgetattr(terminal)
        state = termios.tcgetattr(terminal)
        state[0] &= ~(termios.ICRNL | termios.INLCR | termios.IGNCR | termios.IXON | termios.IXOFF)
        state[3] &= ~(termios.ECHO | termios.ICANON | termios.IEXTEN)
        termios.tcsetattr(terminal, termios.TCSANOW, state)
    except termios.error:
        yield
        return
    try:
        yield
    finally:
        with suppress(termios.error):  # the terminal may be gone
            termios.tcsetattr(terminal, termios.TCSADRAIN, before)
