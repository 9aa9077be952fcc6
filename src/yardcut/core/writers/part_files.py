"""A slice written by other processes: each part of it into a file of a folder that all see, read back and counted.

It may be written twice, where somebody was taken for lost: the same content takes the place of the same.
"""

from __future__ import annotations

import os
import socket
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import field, replace
from pathlib import Path

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_PLACE, PLACES_AN_ITEM, ROWS_AN_ITEM
from yardcut.core.language.save_options import HEADER
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.scanning.shared_folders import SharedFolder
from yardcut.core.settings.threads import one_block_thread
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.saving_slices import write_checked
from yardcut.core.writers.texts.own_texts import own_texts

_ROWS_A_TASK, _TASKS_A_THREAD = 1 << 20, 4


@dataclass(frozen=True, slots=True)
class PartFile:
    """A part that is written: the rows read back, who wrote it, and what is said of it."""

    rows: int
    by: str
    why_not: str = ""


def this_process() -> str:
    """Return what tells this process from all others that may write parts."""
    return f"{socket.gethostname()} {os.getpid()}"


_State = dict[int, PartFile | None]


@dataclass(frozen=True, slots=True, eq=False)
class PartFiles(Round[_State, list[PartFile | None]]):
    """Writes a slice in parts; ``None`` for each that somebody had who does not see the folder.

    ``ends`` are behind the last of each part: places in the slice where it has an ``order`` (row ids, uint32), else
    rows of the table, of which the ``members`` are written. ``target`` is what errors name.
    """

    columns: tuple[ShownColumn, ...]
    ends: tuple[int, ...]
    folder: SharedFolder
    target: str
    plan: Plan
    spec: SourceSpec
    is_joined: bool = False
    """Whether the files are to stand behind each other as one, so that only the first has a header."""
    members: Array | None = field(default=None, metadata=BIT_A_ROW)
    order: Array | None = field(default=None, metadata=ONE_A_PLACE)

    def numbered_by(self) -> str:
        """Rows, or places in the slice."""
        return ROWS_AN_ITEM if self.order is None else PLACES_AN_ITEM

    def own_parts(self, table: Table) -> Sequence[Part]:
        """Return a part for each file."""
        starts = (0, *self.ends[:-1])
        return [
            Part(0, str(table.folder), start, end - start, table.fingerprint)
            for start, end in zip(starts, self.ends, strict=True)
        ]

    def tasks(self, threads: int) -> int:
        """Return how many: a million rows, or a file, are work enough."""
        return min(len(self.ends), max(_TASKS_A_THREAD * threads, self.ends[-1] // _ROWS_A_TASK))

    def look(self, table: Table, part: Part, token: CancelToken, progress: Progress | None = None) -> _State:
        """Write one part and count it. Raises ``TargetError``, ``SourceError``, ``OSError`` and ``StoppedError``."""
        number = bisect_right(self.ends, part.first_row)
        if not self.folder.is_seen():
            return {number: None}
        piece = Frame(table, self._rows(table, part), self.columns)
        plan = self.plan
        if self.is_joined and number and plan.format.delimiter:
            plan = replace(plan, options=plan.options.with_value(HEADER, False))
        beside = self.folder.new_file(number)
        with one_block_thread(), own_texts(piece, self.spec, plan, token, Progress(), at_once=True) as own:
            write_checked(piece, beside, Path(self.target), plan, token, Progress(), own.texts)
        os.replace(beside, self.folder.file(number))
        if progress is not None:
            progress.advance(part.rows)
        return {number: PartFile(piece.rows.count, this_process(), own.why_not)}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return one | other

    def finish(self, state: _State) -> list[PartFile | None]:
        """Return the parts in the slice's order."""
        return [state[number] for number in sorted(state)]

    def _rows(self, table: Table, part: Part) -> RowSet:
        first, end = part.first_row, part.end_row
        if self.order is not None:
            return _rows_of(self.order[first:end], table.rows)
        bits = np.zeros(-(-table.rows // 8), np.uint8)
        if self.members is not None:
            bits[first // 8 : -(-end // 8)] = self.members[first // 8 : -(-end // 8)]
        else:
            bits[first // 8 : end // 8] = 0xFF
            if end % 8:  # the last row of the table: parts end at multiples of 8
                bits[end // 8] = (1 << end % 8) - 1
        return RowSet(table.rows, bits)


def _rows_of(ids: Array, table_rows: int) -> RowSet:
    """Return rows in their order; those of the source in its own need none."""
    rows = ordered(ids, table_rows)
    return RowSet(table_rows, rows.bits) if bool((ids[1:] > ids[:-1]).all()) else rows
