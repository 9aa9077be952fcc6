"""Putting rows in order: keys are packed while scanning, distributed over ranges, and each range is sorted."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.ordering.fields import KeyPlan
from yardcut.core.ranking.ordering.key_ranges import (
    MOST_ROWS,
    Cuts,
    Sorting,
    cuts_by,
    parted,
    placed_ranges,
)
from yardcut.core.ranking.ordering.key_ranges_kept import PackedRows, RangeInMemory, RangeRows
from yardcut.core.ranking.ordering.packing import position_bits, sort_packed
from yardcut.core.ranking.ordering.sort_keys import SortKeys
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.settings.settings_in_force import settings
from yardcut.core.settings.threads import block_threads
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

_PIECE_ROWS = 1 << 18
LEAST_ROWS_APART = 1 << 23
"""Fewer rows are sorted here sooner than by others."""


@dataclass(frozen=True, slots=True, eq=False)
class WordsRound(Round[dict[int, Array], Array]):
    """Encodes the keys of rows as one word each (uint64), which leaves room for a position; in source order."""

    keys: SortKeys

    def scan(self, table: Table, part: Part) -> dict[int, Array]:
        """Encode one part."""
        words = self.keys.encoded(table, part.first_row, part.end_row).words
        return {part.first_row: words[0] if words else np.empty(0, np.uint32)}

    def merge(self, one: dict[int, Array], other: dict[int, Array]) -> dict[int, Array]:
        """Put parts side by side."""
        return one | other

    def finish(self, state: dict[int, Array]) -> Array:
        """Join the parts in the source's order."""
        return np.concatenate([state[first] for first in sorted(state)])


_State = dict[int, dict[int, PackedRows]]


@dataclass(frozen=True, slots=True, eq=False)
class RangesRound(Round[_State, dict[int, RangeRows]]):
    """Encodes the keys of rows and parts them into ranges, which are kept in memory in source order."""

    keys: SortKeys
    cuts: Cuts

    def scan(self, table: Table, part: Part) -> _State:
        """Encode one part, a piece at a time."""
        found: _State = {}
        for first in range(part.first_row, part.end_row, _PIECE_ROWS):
            rows = self.keys.encoded(table, first, min(first + _PIECE_ROWS, part.end_row))
            for at, some in parted(rows, self.cuts):
                found.setdefault(at, {})[first] = some
        return found

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        for at, pieces in other.items():
            one.setdefault(at, {}).update(pieces)
        return one

    def finish(self, state: _State) -> dict[int, RangeRows]:
        """Return the rows of each range, in source order."""
        found: dict[int, RangeRows] = {}
        for at, pieces in state.items():
            found[at] = RangeInMemory()
            for first in sorted(pieces):
                found[at].append(pieces[first])
        return found


def sort_rows(
    rows: RowSet, plans: tuple[KeyPlan, ...], runner: Runner, token: CancelToken,
    progress: Progress | None = None, seed: int | None = None,
) -> RowSet:  # fmt: skip
    """Return the rows in the order of their keys; equal rows stay as they were.

    What would take more memory than is to be had is kept on disk meanwhile. Raises ``SourceError`` where that has no
    room, and ``StoppedError``.
    """
    if progress is not None:
        progress.begin("encoding", runner.table.rows)
    keys = SortKeys(plans, rows.bits, rows.places, seed)
    bits = keys.bits(runner.table)
    if not bits:  # one value in all rows, in the source's own order
        return rows
    a_row, most = keys.bytes_a_row(runner.table), memory_bytes()
    fits = rows.count * a_row <= most
    if fits and bits + position_bits(rows.count) <= 64:
        words = runner.run(WordsRound(keys), token, progress)
        token.check()
        if progress is not None:
            progress.begin("sorting", 0)
        order = sort_packed([(words, bits)], rows.count)
        ids = order if rows.bits is None else RowSet(rows.table_rows, rows.bits).ids(0, rows.count)[order]
        return RowSet(rows.table_rows, rows.bits, ids)
    if rows.count >= LEAST_ROWS_APART and runner.workers and runner.shares_cache:
        from yardcut.core.ranking.ordering.sorting_apart import sorted_apart

        found = sorted_apart(keys, rows.count, runner, token, progress)
        if found is not None:
            return RowSet(rows.table_rows, rows.bits, found)
    room_rows = max(1, min(most // (2 * a_row * block_threads()), MOST_ROWS))
    return RowSet(rows.table_rows, rows.bits, _by_ranges(keys, rows.count, room_rows, fits, runner, token, progress))


def _by_ranges(
    keys: SortKeys, count: int, room_rows: int, fits: bool, runner: Runner, token: CancelToken,
    progress: Progress | None,
) -> Array:  # fmt: skip
    """Return the rows' numbers in the order of their keys, which are kept in memory where they fit, else on disk."""
    cuts = cuts_by(keys.samples(runner.table) if count > room_rows else [], count, room_rows)
    with ThreadPoolExecutor(block_threads(), thread_name_prefix="sort") as pool:
        if fits:
            sorting = Sorting(pool, RangeInMemory, room_rows, token, progress)
            ranges = placed_ranges(runner.run(RangesRound(keys, cuts), token, progress), cuts)
            token.check()
            ids = sorting.in_order(ranges, count)
        else:
            from yardcut.core.ranking.ordering.spilling import ranges_on_disk

            with ranges_on_disk() as new_range:
                sorting = Sorting(pool, new_range, room_rows, token, progress)
                ids = sorting.in_order(sorting.distributed(_pieces(keys, runner.table), cuts), count)
    return ids


def memory_bytes() -> int:
    """Return how much memory a sort may take."""
    most: int = settings().value("sort.bytes")
    return most


def _pieces(keys: SortKeys, table: Table) -> Iterator[Callable[[], PackedRows]]:
    """Yield what encodes the rows of a table, piece by piece."""
    for first in range(0, table.rows, _PIECE_ROWS):
        yield partial(keys.encoded, table, first, min(first + _PIECE_ROWS, table.rows))
