"""The one way to go over the rows, on one machine or many."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Generic, Protocol, TypeVar

from yardcut.core.language.meaning.bound_known import ROWS_AN_ITEM
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.stored_table import Table

State = TypeVar("State")
Result = TypeVar("Result")


class Round(Generic[State, Result]):
    """A plan: frozen plain data that pickles, and the three functions that make it work.

    ``merge`` is commutative and associative, so that parts may come back in any sequence; a state never depends on
    how the rows were cut into parts once it is finished.
    """

    __slots__ = ()

    def scan(self, table: Table, part: Part) -> State:
        """Look at one part."""
        raise NotImplementedError

    def merge(self, one: State, other: State) -> State:
        """Put the states of two sets of parts together."""
        raise NotImplementedError

    def finish(self, state: State) -> Result:
        """Return the result of the state of all parts."""
        raise NotImplementedError

    def look(self, table: Table, part: Part, token: CancelToken, progress: Progress | None = None) -> State:
        """Scan one part and count its rows as done; some can be stopped within it. Raises ``StoppedError``."""
        state = self.scan(table, part)
        if progress is not None:
            progress.advance(part.rows)
        return state

    def own_parts(self, table: Table) -> Sequence[Part] | None:
        """Return how this plan cuts a table, where it is not all the same to it."""
        return None

    def numbered_by(self) -> str:
        """Return the mark of the fields that hold something for each item its parts number: rows, most often."""
        return ROWS_AN_ITEM

    def tasks(self, threads: int) -> int:
        """Return in how many heaps its parts are given to so many threads of other processes; 0 where rows decide."""
        return 0

    def stored_columns(self) -> set[int]:
        """Return the numbers of the columns that must be in the store before a scan."""
        return columns_read(self)

    def narrowed(self, state: State) -> Round[State, Result]:
        """Return a plan for the parts to come that may pass over what ``state`` already rules out."""
        return self


class Runner(Protocol):
    """Makes rounds over one table."""

    @property
    def table(self) -> Table:
        """The table gone over."""

    @property
    def parts(self) -> Sequence[Part]:
        """How it cuts the table."""

    shares_cache: bool
    """Whether whoever goes over the rows sees the cache of this process, as far as is known."""

    @property
    def workers(self) -> int:
        """How many other processes go over the rows; none where this one does."""

    def over(self, table: Table) -> Runner:
        """Return what makes rounds over another table; itself where it is its own."""

    def run(self, work: Round[State, Result], token: CancelToken, progress: Progress | None = None) -> Result:
        """Scan every part, merge, and finish. Raises ``StoppedError`` when the token is cancelled."""
