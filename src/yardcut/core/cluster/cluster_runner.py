"""The runner of many processes: a round's parts are given to workers, and their states are merged here as they come."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from yardcut.core.cluster.connecting import Cluster
from yardcut.core.cluster.sending import Sending
from yardcut.core.cluster.sent_plans import NotSentError, PackedPlan, pack_plan, unpack
from yardcut.core.cluster.worker_tasks import Task, Wanted
from yardcut.core.errors import ClusterError, Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.rounds import Result, Round, Runner, State
from yardcut.core.scanning.row_parts import PART_ROWS, Part, parts_of
from yardcut.core.sources.elsewhere.standing import is_on_a_server
from yardcut.core.sources.spec import STANDARD_INPUT, SourceSpec
from yardcut.core.table.stored_table import Table

_TASKS_A_THREAD = 4
_ROWS_THAT_PAY = 1 << 24
"""A task costs about ten milliseconds, as much as a look at so many rows."""
_MOST_ROWS = 1 << 25
_LARGE_BYTES = 1 << 20
"""A plan larger than this is sent once to a thread, and not with every few parts."""
LEAST_ROWS = 1 << 20
"""Rows that are worth a round elsewhere: asking takes a tenth of a second, and as many take less here."""


@dataclass(slots=True)
class Traffic:
    """What a run sent and was sent: rounds made by workers, those made here, bytes there and back."""

    rounds: int = 0
    here: int = 0
    sent_bytes: int = 0
    received_bytes: int = 0
    workers: int = 0

    def sentence(self) -> str:
        """Say it."""
        who = "1 worker" if self.workers == 1 else f"{self.workers:,} workers"
        if not self.rounds:
            return f"{who} had nothing to do: fewer than {LEAST_ROWS:,} rows are gone over here sooner"
        here = f", {_times(self.here)} here" if self.here else ""
        return (
            f"{who} went over the rows {_times(self.rounds)}"
            f"{here}; {_megabytes(self.sent_bytes)} were sent to them and {_megabytes(self.received_bytes)} came back"
        )


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count:,} times"


def _megabytes(count: int) -> str:
    return f"{count / 1e6:,.1f} MB"


class ClusterRunner:
    """Makes rounds over one table on the workers of a cluster, and those that are too small for it here.

    Where the cluster is lost, whoever is told ``when_lost`` has all further rounds made here; else the round ends.
    """

    def __init__(
        self, cluster: Cluster, spec: SourceSpec, table: Table, part_rows: int = PART_ROWS,
        least_rows: int = LEAST_ROWS, when_lost: Callable[[ClusterError], None] | None = None,
    ) -> None:  # fmt: skip
        if is_on_a_server(spec) or STANDARD_INPUT in spec.files:
            raise SourceError(
                f"{spec.label} is read once, by this process alone", mend=Mend("run it without --cluster")
            )
        self.table = table
        self.shares_cache = True
        self.parts = parts_of(table, part_rows)
        self.traffic = Traffic(workers=cluster.size)
        self._cluster, self._least_rows, self._when_lost = cluster, least_rows, when_lost
        self._wanted = Wanted.of(spec, table)
        self._here = LocalRunner(table, part_rows)

    @property
    def workers(self) -> int:
        """How many other processes go over the rows, unless they are lost."""
        return 0 if self._cluster.is_lost else self._cluster.size

    def over(self, table: Table) -> Runner:
        """Return what makes rounds over another table: this process, which alone has it."""
        return self if table is self.table else self._here.over(table)

    def run(self, work: Round[State, Result], token: CancelToken, progress: Progress | None = None) -> Result:
        """Scan every part, merge, and finish. Raises ``ClusterError``, ``StoppedError`` and what the plan raises."""
        if self.table.rows >= self._least_rows and not self._cluster.is_lost:
            label, total = ("", 0) if progress is None else (progress.label, progress.total)
            try:
                packed = pack_plan(work, self.table)
                if progress is not None:
                    progress.label += f" on {self._cluster.size} workers"
                return self._sent(work, packed, token, progress)
            except NotSentError:
                pass
            except ClusterError as error:
                if self._when_lost is None:
                    raise
                if not self._cluster.is_lost:
                    self._cluster.is_lost = True
                    self._when_lost(error)
            if progress is not None:
                progress.begin(label, total)
        self.traffic.here += 1
        return self._here.run(work, token, progress)

    def _sent(
        self, work: Round[State, Result], packed: PackedPlan, token: CancelToken, progress: Progress | None
    ) -> Result:
        # workers that share this cache find the columns there
        self.table.load(work.stored_columns(), token, progress)
        # none may be known for a moment: what is sent waits for them
        threads = max(1, sum(count for count, _ in self._cluster.workers().values()))
        parts = work.own_parts(self.table) or self.parts
        waiting = _heaps(parts, work.tasks(threads) or _tasks(self.table.rows, threads, len(packed.content)))
        sending = Sending(self._cluster, token)
        plan, merged = work, list[State]()
        for _ in range(min(2 * threads, len(waiting))):
            sending.submit(self._task(packed, waiting.pop(0)))
        for task, outcome in sending.outcomes():
            outcome.raise_error()
            state: State = unpack(outcome.state, self.table)
            merged = [work.merge(merged[0], state) if merged else state]
            if progress is not None:
                progress.advance(task.rows)
            if waiting:
                narrowed = plan.narrowed(merged[0])
                if narrowed is not plan:
                    plan, packed = narrowed, pack_plan(narrowed, self.table)
                sending.submit(self._task(packed, waiting.pop(0)))
        self.traffic.rounds += 1
        self.traffic.sent_bytes += sending.sent_bytes
        self.traffic.received_bytes += sending.received_bytes
        return work.finish(merged[0])

    def _task(self, packed: PackedPlan, parts: Sequence[Part]) -> Task:
        rows = tuple((part.first_row, part.end_row) for part in parts)
        return Task(self._wanted, packed.content, packed.pieces(rows[0][0], rows[-1][1]), rows)


def _tasks(rows: int, threads: int, plan_bytes: int) -> int:
    """Return how many tasks a round is: some for each thread, so that all end together, and none too small to pay."""
    if plan_bytes > _LARGE_BYTES:
        return threads
    return max(threads, min(_TASKS_A_THREAD * threads, rows // _ROWS_THAT_PAY), rows // _MOST_ROWS)


def _heaps(parts: Sequence[Part], count: int) -> list[Sequence[Part]]:
    """Return parts that follow each other as so many heaps of about as many rows, or fewer."""
    size = -(-len(parts) // max(count, 1))
    return [parts[first : first + size] for first in range(0, len(parts), size)]
