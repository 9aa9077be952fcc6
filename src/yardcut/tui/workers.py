"""The one bridge to work in threads. Newer work of a group stops the older; stale results are dropped."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any, TypeVar

from textual.app import App

from yardcut.core.errors import StoppedError, YardcutError
from yardcut.core.progress import CancelToken, Progress

_log = logging.getLogger(__name__)
_Result = TypeVar("_Result")
Work = Callable[[CancelToken, Progress], _Result]


class Workers:
    """Starts work in named groups and brings results back to the event loop."""

    def __init__(self, app: App[None]) -> None:
        self._app = app
        self._running: dict[str, tuple[CancelToken, Progress]] = {}

    def start(
        self,
        group: str,
        work: Work[_Result],
        done: Callable[[_Result], None],
        failed: Callable[[YardcutError], None] | None = None,
    ) -> None:
        """Do work in a thread; ``done`` or ``failed`` is called on the event loop unless newer work came."""
        self.stop(group)
        token, progress = CancelToken(), Progress()
        self._running[group] = (token, progress)

        def finish(call: Callable[[Any], None] | None, value: Any) -> None:
            if self._running.get(group, (None,))[0] is token:
                del self._running[group]
                if call is not None:
                    call(value)

        def go() -> None:
            try:
                result = work(token, progress)
            except StoppedError as error:
                self._tell(finish, None, error)
            except YardcutError as error:
                self._tell(finish, failed, error)
            except Exception as error:
                _log.exception("work of group %s failed", group)
                what = (
                    "there is not enough memory for this" if isinstance(error, MemoryError) else f"this failed: {error}"
                )
                self._tell(finish, failed, YardcutError(what))
            else:
                self._tell(finish, done, result)

        self._app.run_worker(go, thread=True, group=group, name=group, exit_on_error=False)

    def tell(self, token: CancelToken, call: Callable[[Any], None], value: Any) -> None:
        """From within work: hand on a part of the result, unless the work is no longer wanted."""
        if not token.cancelled:
            self._tell(call, value)

    def _tell(self, call: Callable[..., None], *values: Any) -> None:
        if self._app.is_running:
            try:
                self._app.call_from_thread(call, *values)
            except RuntimeError:
                _log.debug("the app is closing; a result was dropped")

    def stop(self, group: str) -> bool:
        """Stop the work of a group; returns whether there was any."""
        found = self._running.pop(group, None)
        if found is not None:
            found[0].cancel()
        return found is not None

    def interrupt(self, group: str) -> bool:
        """Ask the work of a group to end with what it has; its result is still taken."""
        found = self._running.get(group)
        if found is not None:
            found[0].cancel()
        return found is not None

    def stop_all(self) -> None:
        """Stop everything, when the app ends."""
        for group in list(self._running):
            self.stop(group)

    def is_running(self, group: str) -> bool:
        """Tell whether a group has work under way."""
        return group in self._running

    def under_way(self) -> str:
        """Say what is worked on, with percent, for the header."""
        for group in ("open", "save", "results", "preview", "columns", "gauge", "shapes"):
            if group in self._running and self._running[group][1].label:
                return self._running[group][1].sentence()
        return ""
