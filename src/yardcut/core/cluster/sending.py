"""Tasks sent to workers and what comes back: each counts once, whoever is lost, hangs or is slow meanwhile."""

from __future__ import annotations

import logging
import queue
import time
from collections.abc import Iterator
from typing import Any

from yardcut.core.cluster.connecting import Cluster, gone, within
from yardcut.core.cluster.worker_tasks import Outcome, Task, do_task
from yardcut.core.errors import ClusterError, Mend, YardcutError
from yardcut.core.progress import CancelToken

SILENT_SECONDS = 30.0
"""A worker that the scheduler has not heard of so long is passed over, and its tasks are given to others."""
_LOOK_SECONDS = 0.1
_ASK_SECONDS = 2.0
_FETCH_SECONDS = 120.0
_MOST_TRIES = 4

_log = logging.getLogger(__name__)


class Sending:
    """Some tasks under way. What is sent and what comes back is counted in bytes."""

    def __init__(self, cluster: Cluster, token: CancelToken) -> None:
        self._cluster, self._token = cluster, token
        self._under_way: dict[Any, Task] = {}
        self._tries: dict[Task, int] = {}
        self._done: queue.SimpleQueue[Any] = queue.SimpleQueue()
        self._asked = time.monotonic()
        self.sent_bytes = self.received_bytes = 0

    def submit(self, task: Task) -> None:
        """Give a task to whoever is free. Raises ``ClusterError``."""
        tries = self._tries[task] = self._tries.get(task, 0) + 1
        if tries > _MOST_TRIES:
            raise ClusterError(
                f"{_MOST_TRIES} workers were lost over the same rows", mend=Mend("have they memory enough?")
            )
        only = list(self._cluster.workers()) if self._cluster.dropped else None
        if only == []:
            raise ClusterError(f"no worker of {self._cluster.address} answers", mend=Mend("start some anew"))
        future = within(
            _FETCH_SECONDS,
            lambda: self._cluster.client.submit(do_task, task, pure=False, retries=0, workers=only),
            gone(self._cluster.address),
        )
        self._under_way[future] = task
        self.sent_bytes += task.size_bytes
        future.add_done_callback(self._done.put)

    def outcomes(self) -> Iterator[tuple[Task, Outcome]]:
        """Yield what comes back, until nothing is under way; more may be submitted meanwhile.

        Raises ``ClusterError`` and ``StoppedError``.
        """
        try:
            while self._under_way:
                self._token.check()
                try:
                    future = self._done.get(timeout=_LOOK_SECONDS)
                except queue.Empty:
                    self._look_after()
                    continue
                task = self._under_way.pop(future, None)
                outcome = None if task is None else self._outcome(future)
                future.release()
                if task is not None and outcome is None:
                    self._again(task)
                elif task is not None and outcome is not None:
                    self._forget(task)
                    self.received_bytes += len(outcome.state)
                    yield task, outcome
        finally:
            self._let_go()

    def _outcome(self, future: Any) -> Outcome | None:
        """Return what a task brought; nothing where its worker, or the way to it, was lost."""
        if future.status != "finished":
            _log.warning("a task ended as %s", future.status)
            return None
        try:
            outcome: Outcome = within(
                _FETCH_SECONDS, lambda: future.result(timeout=_FETCH_SECONDS), TimeoutError(), self._look_after
            )
        except YardcutError:
            raise
        except Exception as error:
            _log.warning("a result was lost: %s", type(error).__name__)
            return None
        return outcome

    def _again(self, task: Task) -> None:
        if not self._cluster.says_something():
            raise gone(self._cluster.address)
        if task not in self._under_way.values():
            self.submit(task)

    def _look_after(self) -> None:
        """Ask the scheduler, now and then, whether it and its workers are there.

        Raises ``ClusterError`` and ``StoppedError``.
        """
        self._token.check()
        if time.monotonic() - self._asked < _ASK_SECONDS:
            return
        self._asked = time.monotonic()
        silent = self._cluster.silent(SILENT_SECONDS)
        if silent:
            _log.warning("%d workers do not answer", len(silent))
            self._cluster.dropped |= silent
            for task in list(self._under_way.values()):
                self.submit(task)

    def _forget(self, task: Task) -> None:
        """Let go of whoever else has the same task."""
        del self._tries[task]
        self._cancel([future for future, other in self._under_way.items() if other is task])

    def _let_go(self) -> None:
        self._cancel(list(self._under_way))

    def _cancel(self, futures: list[Any]) -> None:
        for future in futures:
            del self._under_way[future]
        if futures and self._cluster.says_something():
            try:
                within(_ASK_SECONDS, lambda: self._cluster.client.cancel(futures), TimeoutError())
            except Exception as error:  # nobody waits for them any more
                _log.warning("tasks could not be cancelled: %s", type(error).__name__)
