"""Keys as a terminal sends them: an Escape followed quickly by a letter is those two keys."""

from __future__ import annotations

import re
from collections.abc import Iterable

from textual import events
from textual._xterm_parser import XTermParser
from textual.drivers import linux_driver
from textual.drivers.linux_driver import LinuxDriver
from textual.message import Message

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

    def feed(self, data: str) -> Iterable[Message]:
        """Read what came in."""
        if self._is_open and data and self._timeout_time is not None and data[0] not in _ESCAPE + _OPENS_SEQUENCE:
            data = _ESCAPE_KEY + data  # completes the Escape that came before as a key
        self._is_open = data.endswith(_ESCAPE)
        return super().feed(_LONE_ESCAPE.sub(_ESCAPE + _ESCAPE_KEY, data))


class KeyDriver(LinuxDriver):
    """Textual's driver, with keys read by :class:`KeyParser`."""

    def run_input_thread(self) -> None:
        """Wait for keys and hand them on."""
        linux_driver.XTermParser = KeyParser  # type: ignore[attr-defined] # the driver makes its own, and takes no other
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
