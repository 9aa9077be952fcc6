"""What a worker does: opens the table that a plan is for, if it has not yet, and goes over the parts it is given."""

from __future__ import annotations

import pickle
import threading
from collections import OrderedDict
from typing import Any

from yardcut.core.cluster.sent_plans import Piece, pack, unpack
from yardcut.core.errors import Mend, SourceError, StoppedError, UnforeseenError
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.row_parts import Part
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec, from_anywhere
from yardcut.core.table.stored_table import Table

_MOST_TABLES = 4


@dataclass(frozen=True, slots=True)
class Wanted:
    """The table that a plan is for: how it is read, and what tells its content and its columns from any other."""

    spec: SourceSpec
    fingerprint: str
    rows: int
    columns: tuple[str, ...]

    @classmethod
    def of(cls, spec: SourceSpec, table: Table) -> Wanted:
        """Return what a worker needs to open a table too, wherever it was started."""
        return cls(from_anywhere(spec), table.fingerprint, table.rows, _columns(table))


@dataclass(frozen=True, slots=True, eq=False)
class Task:
    """Rows ``parts`` (first, behind the last) to go over with a plan, and what it holds for them alone."""

    wanted: Wanted
    plan: bytes
    pieces: tuple[Piece, ...]
    parts: tuple[tuple[int, int], ...]

    @property
    def rows(self) -> int:
        """How many rows it is about."""
        return sum(end - first for first, end in self.parts)

    @property
    def size_bytes(self) -> int:
        """The bytes it sends, but for names and numbers."""
        return len(self.plan) + sum(int(piece.items.nbytes) for piece in self.pieces)


@dataclass(frozen=True, slots=True)
class Outcome:
    """The state of the parts of a task; or the ``error`` that a plan, or the opening of the table, ended with."""

    state: bytes = b""
    error: bytes = b""

    def raise_error(self) -> None:
        """Raise the error, if there is one."""
        if self.error:
            error: Exception = pickle.loads(self.error)
            raise error


def do_task(task: Task) -> Outcome:
    """Go over the parts of a task. Every error comes back as a value: what else fails is the cluster's own."""
    try:
        token = TaskToken()
        table = _TABLES.table(task.wanted, token)
        plan: Any = unpack(task.plan, table, task.pieces)
        table.load(plan.stored_columns(), token)
        state, has_one = None, False
        for first, end in task.parts:
            token.check()
            part = Part(0, str(table.folder), first, end - first, table.fingerprint)
            found = plan.look(table, part, token)
            state, has_one = plan.merge(state, found) if has_one else found, True
            plan = plan.narrowed(state)
        return Outcome(pack(state, table))
    except StoppedError:  # nobody asked this run to stop: the task is to be done elsewhere, if it is wanted at all
        raise
    except SourceError as error:
        return Outcome(error=_packed_error(SourceError(f"{_name()}: {error.message}", mend=error.mend)))
    except Exception as error:
        return Outcome(error=_packed_error(error))


def _name() -> str:
    """Return how the worker at work is called: of many machines one must be found."""
    from distributed import get_worker

    try:
        return f"worker {get_worker().address}"
    except ValueError:
        return "worker"


def _packed_error(error: Exception) -> bytes:
    try:
        content = pickle.dumps(error)
        pickle.loads(content)
    except Exception:
        return pickle.dumps(UnforeseenError(error))
    return content


class TaskToken(CancelToken):
    """Says that a task is no longer wanted: the scheduler tells its worker, which lets it go on all the same."""

    def __init__(self) -> None:
        super().__init__()
        self._state = _state_of_task()

    @property
    def cancelled(self) -> bool:
        """True once the worker was told that nobody wants the task."""
        return super().cancelled or self._is_dropped()

    def check(self) -> None:
        """Raise ``StoppedError`` once nobody wants the task."""
        if self._is_dropped():
            self.cancel()
        super().check()

    def _is_dropped(self) -> bool:
        return self._state is not None and self._state.state in ("cancelled", "released", "forgotten")


def _state_of_task() -> Any:
    """Return what the worker knows of the task at work; ``None`` outside of one."""
    from distributed import get_worker, worker

    try:
        return get_worker().state.tasks.get(vars(worker)["thread_state"].key)
    except (ValueError, AttributeError, KeyError):
        return None


class _Tables:
    """The tables that this process has open, those used lately."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._open: OrderedDict[tuple[str, str], Table] = OrderedDict()

    def table(self, wanted: Wanted, token: CancelToken) -> Table:
        """Return a table. Raises ``SourceError`` where what is read here is not what is wanted."""
        key = (repr(wanted.spec), wanted.fingerprint)
        with self._lock:
            if key not in self._open:
                table = open_table(wanted.spec, token)
                if Wanted.of(wanted.spec, table) != wanted:
                    raise SourceError(
                        f"{wanted.spec.label} is something else there",
                        mend=Mend("let every machine see the same files under the same paths"),
                    )
                self._open[key] = table
                if len(self._open) > _MOST_TABLES:
                    self._open.popitem(last=False)
            self._open.move_to_end(key)
            return self._open[key]


def _columns(table: Table) -> tuple[str, ...]:
    return tuple(f"{column.name} {column.kind}" for column in table.columns)


_TABLES = _Tables()
