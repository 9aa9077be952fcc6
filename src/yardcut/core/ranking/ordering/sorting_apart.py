"""Putting rows in order by other processes: each writes the keys of its rows by ranges, then ranges are sorted.

In between they stand in a folder that all see, in the cache: of each part a file, in which the rows of a range stand
side by side, so that who sorts a range reads a stretch of each file, in the source's order. Sorted ranges stand there
too: a file is read sooner than its bytes would come from elsewhere.
"""

from __future__ import annotations

import errno
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np

from yardcut.core.language.meaning.bound_known import PLACES_AN_ITEM
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.ordering.key_ranges import MOST_ROWS, Cuts, Range, Sorting, cuts_by, parted
from yardcut.core.ranking.ordering.key_ranges_kept import PackedRows, RangeInMemory
from yardcut.core.ranking.ordering.sort_keys import SortKeys
from yardcut.core.ranking.ordering.spilling import sorting_folder
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.scanning.shared_folders import SharedFolder
from yardcut.core.settings.threads import one_block_thread
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table


@dataclass(frozen=True, slots=True, eq=False)
class _Run:
    """What one part wrote: the rows of each range (int64), and the types of the arrays of one."""

    counts: Array
    types: tuple[str, ...]


_Runs = dict[int, _Run | None]
_SORTED = 1 << 32
"""Where the numbers of files of sorted ranges begin, behind those of runs, which are rows."""


@dataclass(frozen=True, slots=True, eq=False)
class KeyRuns(Round[_Runs, _Runs]):
    """Writes the keys of each part by ranges; ``None`` for parts of somebody who does not see the folder."""

    keys: SortKeys
    cuts: Cuts
    folder: SharedFolder

    def scan(self, table: Table, part: Part) -> _Runs:
        """Encode one part. Raises ``OSError``."""
        if not self.folder.is_seen():
            return {part.first_row: None}
        rows = self.keys.encoded(table, part.first_row, part.end_row)
        counts = np.zeros(len(self.cuts.words) + 1, np.int64)
        beside = self.folder.new_file(part.first_row)
        with open(beside, "wb") as file:
            for at, some in parted(rows, self.cuts):
                counts[at] = len(some.row_ids)
                for array in (*some.words, some.row_ids):
                    file.write(np.ascontiguousarray(array).data)
        os.replace(beside, self.folder.file(part.first_row))
        return {part.first_row: _Run(counts, tuple(array.dtype.str for array in (*rows.words, rows.row_ids)))}

    def merge(self, one: _Runs, other: _Runs) -> _Runs:
        """Put parts side by side."""
        return one | other

    def finish(self, state: _Runs) -> _Runs:
        """Return them in the source's order."""
        return {first: state[first] for first in sorted(state)}


@dataclass(frozen=True, slots=True, eq=False)
class SortedRanges(Round[dict[int, int], Array]):
    """Sorts ranges of keys that were written in runs: ``counts[part, range]`` rows (int64), in files of ``numbers``."""

    folder: SharedFolder
    numbers: tuple[int, ...]
    counts: Array
    types: tuple[str, ...]
    cuts: Cuts

    def numbered_by(self) -> str:
        """Places in the order."""
        return PLACES_AN_ITEM

    def own_parts(self, table: Table) -> Sequence[Part]:
        """Return a part for each range that has rows."""
        places = self._places()
        return [
            Part(at, self.folder.path, int(places[at]), int(places[at + 1] - places[at]), table.fingerprint)
            for at in range(len(places) - 1)
            if places[at + 1] > places[at]
        ]

    def tasks(self, threads: int) -> int:
        """Each range by itself."""
        return int(self.counts.shape[1])

    def look(
        self, table: Table, part: Part, token: CancelToken, progress: Progress | None = None
    ) -> dict[int, int]:  # fmt: skip
        """Sort one range, and write its rows. Raises ``OSError`` and ``StoppedError``."""
        at = int(np.searchsorted(self._places(), part.first_row, side="right")) - 1
        rows = RangeInMemory()
        for row, number in enumerate(self.numbers):
            if self.counts[row, at]:
                rows.append(self._stretch(row, self.folder.file(number), at))
        with one_block_thread(), ThreadPoolExecutor(1) as pool:
            sorting = Sorting(pool, RangeInMemory, MOST_ROWS, token, None)
            found = sorting.in_order([Range(rows, 0, int(at in self.cuts.same))], rows.count)
        if progress is not None:
            progress.advance(part.rows)
        beside = self.folder.new_file(_SORTED + at)
        with open(beside, "wb") as file:
            file.write(found.data)
        os.replace(beside, self.folder.file(_SORTED + at))
        return {at: len(found)}

    def merge(self, one: dict[int, int], other: dict[int, int]) -> dict[int, int]:
        """Put ranges side by side."""
        return one | other

    def finish(self, state: dict[int, int]) -> Array:
        """Return the rows' numbers in the order of their keys (uint32). Raises ``OSError``."""
        found, place = np.empty(sum(state.values()), np.uint32), 0
        for at in sorted(state):
            with open(self.folder.file(_SORTED + at), "rb") as file:
                if file.readinto(found[place : place + state[at]].view(np.uint8)) != 4 * state[at]:  # type: ignore[arg-type]
                    raise OSError(errno.EIO, "a range was cut short")
            place += state[at]
        return found

    def _places(self) -> Array:
        return np.concatenate(([0], np.cumsum(self.counts.sum(axis=0))))

    def _stretch(self, row: int, path: Path, at: int) -> PackedRows:
        count, before = int(self.counts[row, at]), int(self.counts[row, :at].sum())
        types = [np.dtype(each) for each in self.types]
        with open(path, "rb") as file:
            file.seek(before * sum(each.itemsize for each in types))
            arrays = [np.frombuffer(file.read(count * each.itemsize), each) for each in types]
        return PackedRows(tuple(arrays[:-1]), arrays[-1])


def sorted_apart(
    keys: SortKeys, count: int, runner: Runner, token: CancelToken, progress: Progress | None
) -> Array | None:
    """Return the numbers (uint32) of the ``count`` rows in the order of their keys, sorted by whoever makes rounds.

    ``None`` where somebody does not see the cache of this machine, which is remembered. Raises ``SourceError`` where
    the cache has no room, ``ClusterError`` and ``StoppedError``.
    """
    cuts = cuts_by(keys.samples(runner.table), count, MOST_ROWS)
    with sorting_folder() as own:
        folder = SharedFolder.marked(own)
        runs = runner.run(KeyRuns(keys, cuts, folder), token, progress)
        whole = {first: run for first, run in runs.items() if run is not None}
        if len(whole) < len(runs):
            runner.shares_cache = False
            return None
        if progress is not None:
            progress.begin("sorting", count)
        counts = np.array([run.counts for run in whole.values()])
        types = next(iter(whole.values())).types
        return runner.run(SortedRanges(folder, tuple(whole), counts, types, cuts), token, progress)
