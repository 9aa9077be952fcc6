"""A cluster that is none: its tasks are done at once, in this process, as a worker would do them; some are lost."""

from __future__ import annotations

import pickle
import time
from collections.abc import Callable
from typing import Any

from yardcut.core.cluster.cluster_runner import ClusterRunner
from yardcut.core.cluster.connecting import Cluster
from yardcut.core.cluster.worker_tasks import Outcome, Task
from yardcut.core.errors import StoppedError
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

Fate = Callable[[int], str]
"""What becomes of each task, by its number from 0: "finished", "error", "lost", "cancelled", or "" for no end."""


class _Future:
    def __init__(self, status: str, outcome: bytes) -> None:
        self.status, self._outcome = status, outcome

    def add_done_callback(self, call: Callable[[_Future], Any]) -> None:
        if self.status:
            call(self)

    def result(self, timeout: float) -> Outcome:
        found: Outcome = pickle.loads(self._outcome)
        return found

    def release(self) -> None: ...


class Client:
    """Speaks as the scheduler's client does."""

    def __init__(self, fate: Fate, workers: int) -> None:
        self._fate, self._workers = fate, workers
        self.status = "running"
        self.silent: set[str] = set()
        self.clock = 0.0
        """How far the scheduler's clock is ahead of that of this machine, in seconds."""
        self.tasks = 0
        self.given_to: list[list[str] | None] = []

    def scheduler_info(self, n_workers: int) -> dict[str, Any]:
        now = time.time()
        names = [f"worker {number}" for number in range(self._workers)]
        seen = {name: 0.0 if name in self.silent else now + self.clock for name in names}
        return {"workers": {name: {"nthreads": 2, "last_seen": seen[name]} for name in names}}

    def cancel(self, futures: list[_Future]) -> None: ...

    def submit(self, work: Callable[[Task], Outcome], task: Task, **options: Any) -> _Future:
        fate = self._fate(self.tasks)
        self.tasks += 1
        self.given_to.append(options["workers"])
        sent = pickle.loads(pickle.dumps(task))
        if fate != "finished":
            return _Future(fate, b"")
        try:
            return _Future(fate, pickle.dumps(work(sent)))
        except StoppedError:
            return _Future("error", b"")


def executor_of(
    spec: SourceSpec, table: Table, fate: Fate = lambda number: "finished", workers: int = 2
) -> tuple[Executor, Client]:
    """Return what runs lines on such a cluster, every round of it."""
    client = Client(fate, workers)
    runner = ClusterRunner(Cluster(client, "here", workers), spec, table, BLOCK_ROWS, least_rows=0)
    return Executor(runner), client
