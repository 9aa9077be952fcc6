"""The runner of one machine: a few threads over the parts of a mapped table."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Generic

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.rounds import Result, Round, Runner, State
from yardcut.core.scanning.row_parts import PART_ROWS, Part, parts_of
from yardcut.core.settings.threads import scan_threads
from yardcut.core.table.stored_table import Table


class _Work(Generic[State, Result]):
    """One round under way."""

    def __init__(self, work: Round[State, Result], table: Table, parts: Iterator[Part]) -> None:
        self._work = work
        self._plan = work
        self._table = table
        self._parts = parts
        self._lock = threading.Lock()
        self._states: list[State] = []
        """What was found so far, once there is any: a state may itself be ``None``."""

    def go(self, token: CancelToken, progress: Progress | None) -> None:
        """Scan parts until none is left."""
        while True:
            token.check()
            with self._lock:
                part = next(self._parts, None)
                plan = self._plan
            if part is None:
                return
            state = plan.look(self._table, part, token, progress)
            with self._lock:
                self._states = [self._work.merge(self._states[0], state) if self._states else state]
                self._plan = self._plan.narrowed(self._states[0])

    def result(self) -> Result:
        """Finish the merged state."""
        assert self._states
        return self._work.finish(self._states[0])


class LocalRunner:
    """Makes rounds on threads of this process: so many, or (0) as many as the settings say."""

    def __init__(self, table: Table, part_rows: int = PART_ROWS, threads: int = 0) -> None:
        self.table = table
        self.shares_cache = True
        self._part_rows, self._most_threads = part_rows, threads or scan_threads()
        self.parts = parts_of(table, part_rows)

    @property
    def workers(self) -> int:
        """None: this process does it all."""
        return 0

    def over(self, table: Table) -> Runner:
        """Return what makes rounds over another table; itself where it is its own."""
        return self if table is self.table else LocalRunner(table, self._part_rows, self._most_threads)

    def run(self, work: Round[State, Result], token: CancelToken, progress: Progress | None = None) -> Result:
        """Scan every part, merge, and finish. Raises ``StoppedError`` when the token is cancelled."""
        # columns that still stand in their own file are read now, all in one pass that can be stopped
        self.table.load(work.stored_columns(), token, progress)
        parts = work.own_parts(self.table) or self.parts
        under_way = _Work(work, self.table, iter(parts))
        threads = min(self._most_threads, len(parts))
        if threads <= 1:
            under_way.go(token, progress)
        else:
            with ThreadPoolExecutor(threads, thread_name_prefix="scan") as pool:
                tasks = [pool.submit(under_way.go, token, progress) for _ in range(threads)]
                for task in tasks:
                    task.result()
        return under_way.result()
