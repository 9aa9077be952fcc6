"""Keys as a terminal sends them: an Escape followed quickly by a letter is those two keys."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import partial
from io import TextIOWrapper
from typing import Any, cast

from textual import events
from textual._xterm_parser import XTermParser
from textual.drivers import linux_driver
from textual.drivers.linux_driver import LinuxDriver
from textual.message import Message

from yardcut.tui.keys.hang_up import HangUp, LastingFile

_ESCAPE = "\x1b"
_OPENS_SEQUENCE = "[O]P_^X"
"""What follows an Escape in the control sequences of terminals (ECMA-48, 5.4 and 8.3)."""
_LONE_ESCAPE = re.compile(rf"\x1b(?=[^\x1b{re.escape(_OPENS_SEQUENCE)}])")
_ESCAPE_KEY = "[27u"


class KeyParser(XTermParser):
    """Reads keys; an Escape that opens no control sequence is a key of its own, however soon the next one comes.

    A terminal sends a letter with alt as Escape and the letter; here nothing is bound to alt, and whoever leaves the
    prompt by Escape and types on means two keys.
    """

    _is_open = False

    def __init__(self, debug: bool = False, *, terminal: int | None = None) -> None:
        super().__init__(debug)
        self._hang_up = None if terminal is None else HangUp(terminal)

    def tick(self) -> Iterable[Message]:
        """Read what waited long enough; called ten times a second, which is when a terminal that is gone is noticed."""
        if self._hang_up is not None:
            self._hang_up.leave()
        return super().tick()

    def feed(self, data: str) -> Iterable[Message]:
        """Read what came in."""
        if self._is_open and data and self._timeout_time is not None and data[0] not in _ESCAPE + _OPENS_SEQUENCE:
            data = _ESCAPE_KEY + data  # completes the Escape that came before as a key
        self._is_open = data.endswith(_ESCAPE)
        return super().feed(_LONE_ESCAPE.sub(_ESCAPE + _ESCAPE_KEY, data))


class KeyDriver(LinuxDriver):
    """Textual's driver, with keys read by :class:`KeyParser`, and an end where the terminal has gone."""

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self._file = cast(TextIOWrapper, LastingFile(cast(TextIOWrapper, self._file)))

    def run_input_thread(self) -> None:
        """Wait for keys and hand them on."""
        # the driver makes its own, and takes no other
        linux_driver.XTermParser = partial(KeyParser, terminal=self.fileno)  # type: ignore[attr-defined, assignment]
        super().run_input_thread()


def meant(event: events.Key) -> list[events.Key]:
    """Return the keys that a key stands for.

    A letter with alt is Escape and the letter; a line feed is Enter, typed before the terminal gave keys as they are.
    """
    if event.key == "ctrl+j":
        return [events.Key("enter", "\r")]
    if not event.key.startswith("alt+") or event.character is None or not event.is_printable:
        return [event]
    return [events.Key("escape", _ESCAPE), events.Key(event.character, event.character)]
