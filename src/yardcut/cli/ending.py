"""Being told to end, by SIGTERM or SIGHUP: as ctrl+c to a command, as leaving to the app. The terminal is put right."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable
from types import FrameType
from typing import Any

STOPPED_EXIT = 130
_TOLD = (signal.SIGTERM, signal.SIGHUP)

_was_told: list[int] = []

Handler = Callable[[int, FrameType | None], Any]


def end_when_told(handler: Handler | None = None, *, also: tuple[int, ...] = ()) -> Callable[[], None]:
    """Have a handler called when the program is told to end; without one whatever is under way is unwound.

    A signal that is ignored stays so: ``nohup`` means it. Returns what puts things back.
    """
    sys.unraisablehook = _unraisable
    found: dict[int, Any] = {}
    for number in (*_TOLD, *also):
        if signal.getsignal(number) is not signal.SIG_IGN:
            found[number] = signal.signal(number, handler or _unwind)

    def put_back() -> None:
        for number, before in found.items():
            signal.signal(number, before)

    return put_back


def end_if_told() -> None:
    """Unwind, if the program was told to end and something held that up: not all that is interrupted lets it through.

    What an import runs turns it into an error of its own, and what ends an object's life drops it.
    """
    if _was_told:
        raise SystemExit(STOPPED_EXIT)


def _unraisable(dropped: sys.UnraisableHookArgs) -> None:
    """Say nothing of an end that was dropped where nothing can be raised, and is made up for by ``end_if_told``."""
    if not (_was_told and dropped.exc_type is SystemExit):
        sys.__unraisablehook__(dropped)


def _unwind(number: int, frame: FrameType | None) -> None:
    _was_told.append(number)
    raise SystemExit(STOPPED_EXIT)
