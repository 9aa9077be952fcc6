"""Sorting more rows than memory should hold: distributed over ranges of the key on disk, each sorted by itself.

The key's range is cut where samples say so, and the rows go by their words into a file for each range, in the order
they come. A range that is few enough is read and sorted in memory; one that is not is cut again by its own samples, or,
where a word is the same in all its rows, by the next word. Rows that are equal in all words stay in the order they came
(external sorting by distribution: Knuth, The Art of Computer Programming 3, 5.4.9). Which samples there are decides how
long it takes, and nothing else.
"""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TypeVar

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.fields import Field
from yardcut.core.ranking.packing import pack_words, sort_positions
from yardcut.core.ranking.ranges_on_disk import PackedRows, RangeFile
from yardcut.core.table.array_file import Array

THREADS = max(1, min(4, os.cpu_count() or 1))
_MOST_RANGES = 240
"""Cut at once: each is an open file."""
_SAMPLES = 1 << 16

Block = tuple[list[Field], Array]
"""The key of some rows as fields, and the rows' numbers."""

Encode = Callable[[], Block]
_Result = TypeVar("_Result")


@dataclass(frozen=True, slots=True, eq=False)
class _Range:
    """Rows that stand side by side in the end, from ``place`` on, and are equal in all words before ``level``."""

    file: RangeFile
    place: int
    level: int


def sort_on_disk(
    blocks: Iterable[Encode], samples: Sequence[list[Field]], count: int, room_rows: int, folder: Path,
    token: CancelToken, progress: Progress | None = None,
) -> Array:  # fmt: skip
    """Return the numbers (uint32) of ``count`` rows in the stable order of their keys.

    ``blocks`` give the rows in their present order, worked out in threads; ``room_rows`` are few enough to be sorted in
    memory; ``samples`` are keys of some of them. Raises ``OSError`` and ``StoppedError``.
    """
    token.check()
    merged = np.empty(count, dtype=np.uint32)
    words = [_packed(fields)[0] for fields in samples]
    cuts = _cuts(np.concatenate(words) if words else np.empty(0, np.uint64), count, room_rows, doubtful=False)
    with ThreadPoolExecutor(THREADS, thread_name_prefix="sort") as pool:
        work = _Work(pool, folder, room_rows, token, progress)
        rows = ((lambda encode=encode: _rows_of(encode())) for encode in blocks)
        ranges = work.distributed(rows, cuts, 0, 0)
        if progress is not None:
            progress.begin("sorting", count)
        sorts = (partial(_sorted_into, merged, each) for each in work.small(ranges))
        for done in work.in_turn(sorts):
            work.advance(done)
    return merged


def _packed(fields: list[Field]) -> tuple[Array, ...]:
    """Return keys as words, those of few bits in half the room."""
    return tuple(word.astype(np.uint32) if bits <= 32 else word for word, bits in pack_words(fields))


def _rows_of(block: Block) -> PackedRows:
    fields, row_ids = block
    return PackedRows(_packed(fields), row_ids)


@dataclass(frozen=True, slots=True, eq=False)
class _Cuts:
    """The words at which ranges begin (uint64, ascending), and the ranges that have one and the same word."""

    words: Array
    same: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True)
class _Work:
    """One sort under way: its threads, where its files are, how many rows it may hold."""

    pool: ThreadPoolExecutor
    folder: Path
    room_rows: int
    token: CancelToken
    progress: Progress | None

    def advance(self, rows: int) -> None:
        """Tell that so many rows more are done."""
        if self.progress is not None:
            self.progress.advance(rows)

    def in_turn(self, calls: Iterable[Callable[[], _Result]]) -> Iterator[_Result]:
        """Yield what calls return, in their sequence; a few are carried out ahead, in threads."""
        waiting: deque[Future[_Result]] = deque()
        try:
            for call in calls:
                self.token.check()
                waiting.append(self.pool.submit(call))
                if len(waiting) > THREADS:
                    yield waiting.popleft().result()
            while waiting:
                self.token.check()
                yield waiting.popleft().result()
        finally:
            for future in waiting:
                future.cancel()

    def distributed(
        self, pieces: Iterable[Callable[[], PackedRows]], cuts: _Cuts, level: int, place: int
    ) -> list[_Range]:
        """Write rows into the ranges of one of their words, and return the ranges that have any."""
        files: dict[int, RangeFile] = {}
        parting = ((lambda piece=piece: _parted(piece(), cuts.words, level)) for piece in pieces)
        try:
            for parts in self.in_turn(parting):
                for at, some in parts:
                    if at not in files:
                        files[at] = RangeFile.new(self.folder)
                    files[at].append(some)
                if level == 0:
                    self.advance(sum(len(some.row_ids) for _, some in parts))
        finally:
            for file in files.values():
                file.close()
        found = []
        for at in sorted(files):
            found.append(_Range(files[at], place, level + (at in cuts.same)))
            place += files[at].count
        return found

    def small(self, ranges: list[_Range]) -> Iterator[_Range]:
        """Yield the ranges in order, those of too many rows cut into smaller ones."""
        for some in ranges:
            file = some.file
            if file.count <= self.room_rows or some.level >= file.levels:
                yield some
                continue
            samples = np.concatenate([rows.words[some.level] for rows in file.pieces(max(1, file.count // _SAMPLES))])
            cuts = _cuts(samples, file.count, self.room_rows, doubtful=True)
            pieces = ((lambda rows=rows: rows) for rows in file.pieces())
            inner = self.distributed(pieces, cuts, some.level, some.place)
            file.drop()
            yield from self.small(inner)


def _sorted_into(merged: Array, some: _Range) -> int:
    """Sort a range in memory and put its rows in their places."""
    rows = some.file.read()
    some.file.drop()
    ids = rows.row_ids
    if some.level < len(rows.words):
        fields = [(word.astype(np.uint64, copy=False), _bits(word)) for word in rows.words[some.level :]]
        ids = ids[sort_positions(fields, len(ids))]
    merged[some.place : some.place + len(ids)] = ids
    return len(ids)


def _bits(word: Array) -> int:
    return max(1, int(word.max()).bit_length())


def _cuts(samples: Array, count: int, room_rows: int, *, doubtful: bool) -> _Cuts:
    """Return where to cut by samples.

    A word that many rows have is a range of its own; every word that is cut at, where it is ``doubtful`` whether that
    alone would make ranges smaller.
    """
    if not len(samples):
        return _Cuts(np.empty(0, np.uint64))
    samples = np.sort(samples).astype(np.uint64)
    parts = max(2, min(_MOST_RANGES // 2, -(-count // room_rows) + 1))
    picked = samples[np.linspace(0, len(samples) - 1, parts + 1).astype(np.int64)]
    values, times = np.unique(picked, return_counts=True)
    alone = values if doubtful else values[times > 1]
    behind = alone[alone < np.uint64(0xFFFFFFFFFFFFFFFF)] + np.uint64(1)
    cuts = np.unique(np.concatenate([values, behind]))
    return _Cuts(cuts, frozenset((np.searchsorted(cuts, alone) + 1).tolist()))


def _parted(rows: PackedRows, cuts: Array, level: int) -> list[tuple[int, PackedRows]]:
    """Return the rows of each range, in the order they have."""
    if not len(rows.row_ids):
        return []
    if not len(cuts):
        return [(0, rows)]
    numbers = np.searchsorted(cuts, rows.words[level], side="right").astype(np.uint16)
    order = np.argsort(numbers, kind="stable")
    ends = np.cumsum(np.bincount(numbers, minlength=len(cuts) + 1))
    words, row_ids = [word[order] for word in rows.words], rows.row_ids[order]
    found, start = [], 0
    for at, end in enumerate(ends.tolist()):
        if end > start:
            found.append((at, PackedRows(tuple(word[start:end] for word in words), row_ids[start:end])))
        start = end
    return found
