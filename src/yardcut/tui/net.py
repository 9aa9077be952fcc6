"""The net below everything: an error nobody foresaw is logged and told, and the app goes on with its list."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from textual.message import Message
from textual.message_pump import MessagePump

from yardcut.core.traces import came_from, trace

_log = logging.getLogger(__name__)
_MOST_LOGGED = 20
"""An error that comes again with every repaint must not fill the log."""

_Drawn = TypeVar("_Drawn")


class Net:
    """Takes errors once there is an app to go on (``is_up``); until then they end it.

    ``caught`` are those taken so far. ``tell`` is handed where each came from, and whether that is new.
    """

    def __init__(self, tell: Callable[[str, bool], None], is_up: Callable[[], bool]) -> None:
        self._tell = tell
        self._is_up = is_up
        self._times: dict[str, int] = {}
        self.caught: list[BaseException] = []

    def takes(self, error: Exception) -> bool:
        """Log an error and have it told; ``False`` when there is nothing yet that could go on."""
        place = came_from(error)
        times = self._times[place] = self._times.get(place, 0) + 1
        if times <= _MOST_LOGGED:
            _log.error("nobody foresaw: %s", trace(error))
        if not self._is_up():
            return False
        if times <= _MOST_LOGGED:
            self.caught.append(error)
        self._tell(place, times == 1)
        return True


def net_of(pump: MessagePump) -> Net | None:
    """Return the net below a widget or an app."""
    return getattr(pump.app, "net", None)


def keep_loops_alive() -> None:
    """Let a widget whose handler fails take its next message.

    Textual ends the message loop of such a widget, which is deaf from then on, before it tells the app; there is no
    place of its own where that could be had otherwise.
    """
    dispatch = MessagePump._dispatch_message
    if hasattr(dispatch, "__wrapped__"):
        return

    @wraps(dispatch)
    async def dispatch_and_go_on(self: MessagePump, message: Message) -> None:
        try:
            await dispatch(self, message)
        except Exception as error:
            net = net_of(self)
            if net is None or not net.takes(error):
                raise

    MessagePump._dispatch_message = dispatch_and_go_on  # type: ignore[method-assign]


def drawn(widget: MessagePump, draw: Callable[[], _Drawn], instead: Callable[[], _Drawn]) -> _Drawn:
    """Draw something, or where that fails something else: what surrounds it must still be drawn."""
    try:
        return draw()
    except Exception as error:
        net = net_of(widget)
        if net is None or not net.takes(error):
            raise
        return instead()
