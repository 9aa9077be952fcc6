"""Putting rows in order: keys are packed while scanning, distributed over ranges, and each range is sorted."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import field
from functools import partial

import numpy as np

from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.hashing import table_ranks
from yardcut.core.ranking.ordering.fields import Field, KeyPlan
from yardcut.core.ranking.ordering.key_ranges import (
    MOST_ROWS,
    Cuts,
    Sorting,
    cuts_by,
    packed,
    parted,
    placed_ranges,
)
from yardcut.core.ranking.ordering.key_ranges_kept import PackedRows, RangeInMemory, RangeRows
from yardcut.core.ranking.ordering.packing import position_bits, sort_packed
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.settings.settings_in_force import settings
from yardcut.core.settings.threads import block_threads
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table

_PIECE_ROWS = 1 << 18
_SAMPLE_PIECES, _SAMPLE_ROWS = 256, 256


@dataclass(frozen=True, slots=True, eq=False)
class SortKeys:
    """The keys of the members of a set of rows, in source order.

    Without plans they are the rows' ranks by chance under ``seed``. ``places`` are the rows' present positions, which
    are then the last key.
    """

    plans: tuple[KeyPlan, ...]
    members: Array | None = field(metadata=BIT_A_ROW)
    places: Array | None = field(default=None, metadata=ONE_A_ROW)
    seed: int | None = None

    def encoded(self, table: Table, first_row: int, end_row: int) -> PackedRows:
        """Return those of the members that are among some rows of the table."""
        fields = self._fields(table, first_row, end_row)
        chosen = bit.positions(self.members, first_row, end_row)
        if chosen is None:
            return packed(fields, np.arange(first_row, end_row, dtype=np.uint32))
        return packed([(values[chosen], bits) for values, bits in fields], (chosen + first_row).astype(np.uint32))

    def _fields(self, table: Table, first_row: int, end_row: int) -> list[Field]:
        if self.seed is not None:
            fields = [(table_ranks(self.seed, table, first_row, end_row), 64)]
        else:
            fields = [field for plan in self.plans for field in plan.fields(table, first_row, end_row)]
        if self.places is not None:
            fields.append((self.places[first_row:end_row].astype(np.uint64), 32))
        return fields

    def samples(self, table: Table) -> list[PackedRows]:
        """Return a few of the members from all over the table."""
        step = max(_SAMPLE_ROWS, table.rows // _SAMPLE_PIECES // 8 * 8)
        starts = range(0, table.rows, step)
        return [self.encoded(table, first, min(first + _SAMPLE_ROWS, table.rows)) for first in starts]

    def bits(self, table: Table) -> int:
        """Return how many bits a key has."""
        return sum(bits for _, bits in self._fields(table, 0, min(8, table.rows)))

    def bytes_a_row(self, table: Table) -> int:
        """Return about how much memory sorting takes for each row, kept in memory: words, number, and once more."""
        words = self.encoded(table, 0, min(8, table.rows)).words
        return 2 * sum(word.itemsize for word in words) + 12


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
    a_row, most = keys.bytes_a_row(runner.table), memory_bytes()
    fits = rows.count * a_row <= most
    room_rows = max(1, min(most // (2 * a_row * block_threads()), MOST_ROWS))
    if fits and (bits := keys.bits(runner.table)) + position_bits(rows.count) <= 64:
        words = runner.run(WordsRound(keys), token, progress)
        token.check()
        if progress is not None:
            progress.begin("sorting", 0)
        order = sort_packed([(words, bits)], rows.count)
        ids = order if rows.bits is None else RowSet(rows.table_rows, rows.bits).ids(0, rows.count)[order]
        return RowSet(rows.table_rows, rows.bits, ids)
    cuts = cuts_by(keys.samples(runner.table) if rows.count > room_rows else [], rows.count, room_rows)
    with ThreadPoolExecutor(block_threads(), thread_name_prefix="sort") as pool:
        if fits:
            sorting = Sorting(pool, RangeInMemory, room_rows, token, progress)
            ranges = placed_ranges(runner.run(RangesRound(keys, cuts), token, progress), cuts)
            token.check()
            ids = sorting.in_order(ranges, rows.count)
        else:
            from yardcut.core.ranking.ordering.spilling import ranges_on_disk

            with ranges_on_disk() as new_range:
                sorting = Sorting(pool, new_range, room_rows, token, progress)
                ids = sorting.in_order(sorting.distributed(_pieces(keys, runner.table), cuts), rows.count)
    return RowSet(rows.table_rows, rows.bits, ids)


def memory_bytes() -> int:
    """Return how much memory a sort may take."""
    most: int = settings().value("sort.bytes")
    return most


def _pieces(keys: SortKeys, table: Table) -> Iterator[Callable[[], PackedRows]]:
    """Yield what encodes the rows of a table, piece by piece."""
    for first in range(0, table.rows, _PIECE_ROWS):
        yield partial(keys.encoded, table, first, min(first + _PIECE_ROWS, table.rows))
