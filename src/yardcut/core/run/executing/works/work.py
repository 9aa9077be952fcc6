"""The work of a line."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import field, replace
from typing import Any

from yardcut.core.cached import Kept
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import BoundValue, Constant
from yardcut.core.language.meaning.bound_known import Spread
from yardcut.core.language.meaning.bound_second import Matching
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.drawn import Stratum
from yardcut.core.ranking.drawing.ranked import KnownRanks
from yardcut.core.run.executing.looked_up import Matched, RowsOf
from yardcut.core.run.executing.pieces import PieceCache
from yardcut.core.run.executing.second_values import SecondValues
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.copies import TableOfCopies
from yardcut.core.table.held_table import HeldTable
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Scatter
from yardcut.core.tallying.row_groups import RowGroups


@dataclass(frozen=True, slots=True)
class Tools:
    """What work is done with: a runner over the table, what is known so far of its rows, how to stop and tell.

    ``rows_of`` gives the rows of second tables, ``seconds`` keeps what was looked up in them.
    """

    runner: Runner
    pieces: PieceCache
    ranks: KnownRanks
    groups: Kept[Hashable, RowGroups]
    token: CancelToken
    progress: Progress | None = None
    seconds: SecondValues = field(default_factory=SecondValues)
    rows_of: RowsOf | None = None

    def matched(self, matching: Matching) -> Matched:
        """Return what all rows find in a second table."""
        assert self.rows_of is not None
        return self.seconds.matched(matching, self.runner, self.rows_of, self.token, self.progress)

    def over(self, table: Table) -> Tools:
        """Return them for the rows of a table."""
        if table is self.runner.table:
            return self
        return replace(self, runner=self.runner.over(table), pieces=self.pieces.over(table))


@dataclass(frozen=True, slots=True, eq=False)
class Worked:
    """The rows a line leaves.

    ``unknown_taken`` counts the rows it removed for want of a value, ``unknown`` marks them (one bit a row of the
    table); ``notes`` are sentences for the report; ``strata`` the groups of a draw. Where it leaves rows of another
    table, ``table`` is that, and ``members`` are the rows it leaves of the one it met;
    ``scope`` are the columns that only the rows told, ``along`` the values that told them. ``known`` are values that
    became known with it, each behind what stood in its place.
    """

    rows: RowSet
    unknown_taken: int = 0
    notes: tuple[str, ...] = ()
    unknown: Array | None = None
    strata: tuple[Stratum, ...] = ()
    table: Table | None = None
    members: RowSet | None = None
    scope: Scope | None = None
    along: tuple[Constant | None, ...] = ()
    known: tuple[tuple[BoundValue, BoundValue], ...] = ()

    @property
    def size_bytes(self) -> int:
        """The memory of every array kept."""
        bits = 0 if self.rows.bits is None else self.rows.bits.nbytes
        order = 0 if self.rows.order is None else 2 * self.rows.order.nbytes  # with each row's place in it
        copies = self.table.copied.nbytes if isinstance(self.table, TableOfCopies) else 0
        copies += self.table.size_bytes if isinstance(self.table, HeldTable) else 0
        known = sum(value.nbytes for _, value in self.known if isinstance(value, Spread))
        return bits + order + copies + known + (0 if self.unknown is None else self.unknown.nbytes)


@dataclass(frozen=True, slots=True)
class Work:
    """How a line works: ``run`` gives the rows it leaves; ``reason`` says why it removed the one row of a window.

    A line without ``run`` leaves all rows as they are.
    """

    run: Callable[[Any, Frame, Tools], Worked] | None = None
    reason: Callable[[Any, Scatter], str] = lambda body, window: ""
