"""Putting more rows in order than memory should hold the keys of."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np

from yardcut.core import litter
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.fields import Field, KeyPlan
from yardcut.core.ranking.sorting import fields_of
from yardcut.core.ranking.spilling import THREADS, Block, sort_on_disk
from yardcut.core.sources.cache import SORTING, own_folder, reading_failed, stores_folder
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table

_PIECE_ROWS = 1 << 18
_SAMPLE_PIECES, _SAMPLE_ROWS = 256, 256
_MOST_ROWS = 1 << 21
"""Sorted at once: more take longer, a row."""


def sort_large(
    rows: RowSet, plans: tuple[KeyPlan, ...], table: Table, room_rows: int, token: CancelToken,
    progress: Progress | None = None, seed: int | None = None,
) -> RowSet:  # fmt: skip
    """Return the rows in the order of their keys, ``room_rows`` at once in a thread's memory, the rest on disk.

    Raises ``SourceError`` when that cannot be written or is full, and ``StoppedError``.
    """
    if progress is not None:
        progress.begin("encoding", table.rows)
    parent = stores_folder()
    try:
        parent.mkdir(parents=True, exist_ok=True)
        folder = own_folder(parent, SORTING)
        try:
            keys = _Keys(rows, plans, table, seed)
            room_rows = max(1, min(room_rows // THREADS, _MOST_ROWS))
            ids = sort_on_disk(keys.blocks(), keys.samples(), rows.count, room_rows, folder, token, progress)
        finally:
            litter.drop(folder)
    except OSError as error:
        raise reading_failed(error, "the order", parent) from error
    return RowSet(rows.table_rows, rows.bits, ids)


@dataclass(frozen=True, slots=True, eq=False)
class _Keys:
    """The keys of the rows, in the source's order."""

    rows: RowSet
    plans: tuple[KeyPlan, ...]
    table: Table
    seed: int | None

    def encoded(self, first: int, end: int) -> Block:
        """Return keys and numbers of those rows that are among some of the source."""
        rows = self.rows
        fields = fields_of(self.plans, self.table, first, end, self.seed)
        if rows.places is not None:
            fields.append((rows.places[first:end].astype(np.uint64), 32))
        chosen = bit.positions(rows.bits, first, end)
        if chosen is None:
            return fields, np.arange(first, end, dtype=np.uint32)
        return [(values[chosen], bits) for values, bits in fields], (chosen + first).astype(np.uint32)

    def blocks(self) -> Iterator[Callable[[], Block]]:
        """Yield what encodes the rows, piece by piece."""
        for first in range(0, self.table.rows, _PIECE_ROWS):
            yield partial(self.encoded, first, min(first + _PIECE_ROWS, self.table.rows))

    def samples(self) -> list[list[Field]]:
        """Return the keys of a few rows from all over the source."""
        step = max(_SAMPLE_ROWS, self.table.rows // _SAMPLE_PIECES // 8 * 8)
        found = [
            self.encoded(first, min(first + _SAMPLE_ROWS, self.table.rows)) for first in range(0, self.table.rows, step)
        ]
        return [fields for fields, _ in found]
