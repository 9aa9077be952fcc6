"""The one bridge to work in threads. The newest work of a job wins; what an older one brings is dropped on the loop."""

from __future__ import annotations

import logging
from collections.abc import Callable
from enum import Enum
from typing import Any, TypeVar

from textual.app import App

from yardcut.core.errors import StoppedError, UnforeseenError, YardcutError
from yardcut.core.progress import CancelToken, Progress

_log = logging.getLogger(__name__)
_Result = TypeVar("_Result")
Work = Callable[[CancelToken, Progress], _Result]


class Job(Enum):
    """What threads do; each at most once at a time. Those whose progress the header tells come first."""

    FIRST = "reading columns first"
    OPEN = "opening"
    SAVE = "saving"
    LOOK_FOR_FORMULAS = "looking for formulas"
    RESULTS = "results"
    GROW = "counting more rows"
    TRY = "trying a line"
    COLUMNS = "reading columns"
    GAUGE = "gauge"
    SHAPES = "distributions"
    TOTALS = "totals"
    TREE = "tree"
    HINTS = "hints"
    FIND = "finding"
    COMPLETE = "completing"
    ASK = "asking a server"
    TRY_ON_ALL = "trying a line on all rows"
    SESSION = "session"
    WARM_UP = "warming up"
    WATCH = "watching"
    PROFILE = "profile"
    KEEP = "keeping the list"
    KEPT = "kept lists"
    SAMPLES = "sample values"
    LOOK_INSIDE = "looking at a table"
    OPENING = "looking at another source"
    COPY = "copying"


class Jobs:
    """Starts work and brings results back to the event loop, where alone it is decided whether they still count."""

    def __init__(self, app: App[Any]) -> None:
        self._app = app
        self._running: dict[Job, tuple[CancelToken, Progress]] = {}

    def start(
        self,
        job: Job,
        work: Work[_Result],
        done: Callable[[_Result], None] = lambda result: None,
        failed: Callable[[YardcutError], None] | None = None,
        stopped: Callable[[], None] | None = None,
    ) -> None:
        """Do work in a thread; ``done`` or ``failed`` is called on the event loop unless newer work came.

        ``stopped`` is called where it ended because it was interrupted.
        """
        self.stop(job)
        token, progress = CancelToken(), Progress()
        self._running[job] = (token, progress)

        def finish(call: Callable[[Any], None] | None, value: Any) -> None:
            if self._running.get(job, (None,))[0] is token:
                del self._running[job]
                if call is not None:
                    call(value)

        def go() -> None:
            try:
                result = work(token, progress)
            except StoppedError as error:
                self._bring(finish, None if stopped is None else lambda _: stopped(), error)
            except YardcutError as error:
                self._bring(finish, failed, error)
            except Exception as error:
                self._bring(finish, failed, UnforeseenError(error))
                self._bring(self._unforeseen, error)
            else:
                self._bring(finish, done, result)

        self._app.run_worker(go, thread=True, group=job.value, name=job.value, exit_on_error=False)

    def tell(self, token: CancelToken, call: Callable[[Any], None], value: Any) -> None:
        """From within work: hand on a part of the result, unless newer work has come by the time it is there."""

        def told() -> None:
            if not token.cancelled:
                call(value)

        self._bring(told)

    def _call(self, call: Callable[..., None], *values: Any) -> None:
        """Call on the loop; an error there is the loop's, and would be lost in the thread."""
        try:
            call(*values)
        except Exception as error:
            self._unforeseen(error)

    def _unforeseen(self, error: Exception) -> None:
        """Have an error in a thread told as one on the loop is."""
        if not isinstance(error, MemoryError):
            self._app._handle_exception(error)

    def _bring(self, call: Callable[..., None], *values: Any) -> None:
        if self._app.is_running:
            try:
                self._app.call_from_thread(self._call, call, *values)
            except RuntimeError:
                _log.debug("the app is closing; a result was dropped")

    def stop(self, job: Job) -> bool:
        """Stop a job; returns whether it was under way."""
        found = self._running.pop(job, None)
        if found is not None:
            found[0].cancel()
        return found is not None

    def interrupt(self, job: Job) -> bool:
        """Ask a job to end with what it has; its result is still taken."""
        found = self._running.get(job)
        if found is not None:
            found[0].cancel()
        return found is not None

    def stop_all(self) -> None:
        """Stop everything, when the app or a card ends."""
        for job in list(self._running):
            self.stop(job)

    def is_running(self, job: Job) -> bool:
        """Tell whether a job is under way."""
        return job in self._running

    def under_way(self) -> str:
        """Say what is worked on, with percent, for the header."""
        for job in Job:
            if job in self._running and self._running[job][1].label:
                return self._running[job][1].sentence()
        return ""
