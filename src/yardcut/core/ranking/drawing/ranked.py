"""The best rows of a draw, kept: the same draw of another number ranks nothing anew, once one was asked for."""

from __future__ import annotations

import threading
import weakref
from collections import deque
from collections.abc import Hashable
from dataclasses import replace

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.groups import Groups
from yardcut.core.ranking.taking import Candidates, Taken, TakeRound, best_of, sorted_best
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

_MORE_ROWS = 64
_LIMIT_BYTES = 64 << 20
_MOST_ROWS = _LIMIT_BYTES // 64
_GROUP_BYTES = 200
_MOST_KEPT = 6

_State = list[Candidates]


@dataclass(frozen=True, slots=True, eq=False)
class RankRound(Round[_State, Candidates]):
    """Finds what a take would choose from: of each group the rows no worse than the last its quota reaches, in rank."""

    take: TakeRound

    def scan(self, table: Table, part: Part) -> _State:
        """Find the candidates of one part."""
        return self.take.scan(table, part)

    def merge(self, one: _State, other: _State) -> _State:
        """Join two sets of candidates."""
        return self.take.merge(one, other)

    def narrowed(self, state: _State) -> RankRound:
        """Pass over what is worse than enough rows already found."""
        return RankRound(self.take.narrowed(state))

    def finish(self, state: _State) -> Candidates:
        """Rank the candidates, without those that only the way the rows were cut into parts let through."""
        return sorted_best(self.take.within_limits(state))


@dataclass(frozen=True, slots=True, eq=False)
class Ranked:
    """What is known of the ranks of some rows: those that have one, their groups, and the best of each group.

    ``best`` holds of each group all rows that a quota of ``reach[g]`` (int64) may take, and those that tie with it.
    """

    candidates: RowSet
    notes: tuple[str, ...]
    groups: Groups
    best: Candidates
    reach: Array

    def taken(self, quotas: Array, *, with_ties: bool) -> Taken | None:
        """Take the quotas, or nothing where they reach further than what is known."""
        if (quotas > self.reach).any():
            return None
        return best_of(self.best, quotas, with_ties)

    @property
    def size_bytes(self) -> int:
        """The memory it takes, about."""
        best = self.best
        arrays = sum(each.nbytes for each in (*best.words, best.group, best.place, best.row_id))
        return arrays + _GROUP_BYTES * len(self.groups.keys)


def further(take: TakeRound, counts: Array) -> TakeRound:
    """Return a take of twice as many rows of each group, as far as there are so many and as many may be kept."""
    more = np.where(take.quotas > 0, take.quotas + _MORE_ROWS, 0)
    reach = np.minimum(take.quotas + more, counts)
    return replace(take, quotas=reach if int(reach.sum()) <= _MOST_ROWS else take.quotas)


class KnownRanks:
    """The ranks worked out last, by the table, the very rows of it, and what ranks them. Any thread may ask.

    The table is part of it: all rows of a table of copies are other rows than all rows of the source.
    """

    def __init__(self) -> None:
        self._kept: deque[_Entry] = deque()
        self._lock = threading.Lock()

    def get(self, table: Table, rows: RowSet, key: Hashable) -> Ranked | None:
        """Return what is known of some rows of a table, ranked so."""
        with self._lock:
            return next((entry.ranked for entry in self._kept if entry.is_of(table, rows, key)), None)

    def put(self, table: Table, rows: RowSet, key: Hashable, ranked: Ranked) -> None:
        """Keep what was worked out, in the place of what was known of the same before."""
        with self._lock:
            kept = [entry for entry in self._kept if entry.is_alive and not entry.is_of(table, rows, key)]
            kept.append(_Entry(table.fingerprint, None if _is_whole(rows) else weakref.ref(rows), key, ranked))
            while kept and sum(entry.ranked.size_bytes for entry in kept) > _LIMIT_BYTES:
                kept.pop(0)
            self._kept = deque(kept, maxlen=_MOST_KEPT)


@dataclass(frozen=True, slots=True, eq=False)
class _Entry:
    """Ranks of a set of rows that is still used (``None``: all rows of the table with that fingerprint)."""

    table: str
    rows: weakref.ref[RowSet] | None
    key: Hashable
    ranked: Ranked

    @property
    def is_alive(self) -> bool:
        return self.rows is None or self.rows() is not None

    def is_of(self, table: Table, rows: RowSet, key: Hashable) -> bool:
        same_rows = _is_whole(rows) if self.rows is None else self.rows() is rows
        return same_rows and self.table == table.fingerprint and self.key == key


def _is_whole(rows: RowSet) -> bool:
    return rows.bits is None and rows.order is None
