"""Cutting rows into ranges of their key, and sorting each range by itself.

The key's range is cut where samples say so. A range that is few enough is sorted in memory; one that is not is cut
again by its own samples, or, where a word is the same in all its rows, by the next word. Rows that are equal in all
words stay in the order they came (sorting by distribution: Knuth, The Art of Computer Programming 3, 5.2.5 and 5.4.9).
Which samples there are decides how long it takes, and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import TypeVar

import numpy as np

from yardcut.core.in_turn import in_turn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.ordering.fields import Field
from yardcut.core.ranking.ordering.key_ranges_kept import PackedRows, RangeRows
from yardcut.core.ranking.ordering.packing import pack_words, sort_positions
from yardcut.core.settings.threads import block_threads
from yardcut.core.table.array_file import Array

MOST_ROWS = 1 << 21
"""Sorted at once: more take longer, a row."""
_MOST_RANGES = 120
"""Cut at once: on disk each is an open file."""
_SAMPLES = 1 << 16
_STRETCH_BITS = 13

_Result = TypeVar("_Result")


@dataclass(frozen=True, slots=True, eq=False)
class Cuts:
    """The words at which ranges begin (uint64, ascending), and the ranges that have one and the same word."""

    words: Array
    same: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True, eq=False)
class Range:
    """Rows that stand side by side in the end, from ``place`` on, and are equal in all words before ``level``."""

    rows: RangeRows
    place: int
    level: int = 0


def packed(fields: list[Field], row_ids: Array) -> PackedRows:
    """Return rows with their keys as words, those of few bits in half the room."""
    words = pack_words(fields)
    return PackedRows(tuple(word.astype(np.uint32) if bits <= 32 else word for word, bits in words), row_ids)


def cuts_by(samples: Sequence[PackedRows], count: int, room_rows: int) -> Cuts:
    """Return where to cut ``count`` rows by samples of them, so that about ``room_rows`` are in each range."""
    words = [rows.words[0] for rows in samples]
    return _cuts(np.concatenate(words) if words else np.empty(0, np.uint64), count, room_rows, doubtful=False)


def _cuts(samples: Array, count: int, room_rows: int, *, doubtful: bool) -> Cuts:
    """Return where to cut.

    A word that many rows have is a range of its own; every word that is cut at, where it is ``doubtful`` whether that
    alone would make ranges smaller.
    """
    if not len(samples) or (count <= room_rows and not doubtful):
        return Cuts(np.empty(0, np.uint64))
    samples = np.sort(samples).astype(np.uint64)
    parts = max(2, min(_MOST_RANGES // 2, -(-count // room_rows) + 1))
    picked = samples[np.linspace(0, len(samples) - 1, parts + 1).astype(np.int64)]
    values, times = np.unique(picked, return_counts=True)
    alone = values if doubtful else values[times > 1]
    behind = alone[alone < np.uint64(0xFFFFFFFFFFFFFFFF)] + np.uint64(1)
    cuts = np.unique(np.concatenate([values, behind]))
    return Cuts(cuts, frozenset((np.searchsorted(cuts, alone) + 1).tolist()))


def parted(rows: PackedRows, cuts: Cuts, level: int = 0) -> list[tuple[int, PackedRows]]:
    """Return the rows of each range by one of their words, in the order they have; ranges without any left out."""
    if not len(rows.row_ids):
        return []
    if not len(cuts.words):
        return [(0, rows)]
    numbers = _numbers(rows.words[level], cuts.words)
    order = np.argsort(numbers, kind="stable")
    ends = np.cumsum(np.bincount(numbers, minlength=len(cuts.words) + 1))
    words, row_ids = [word[order] for word in rows.words], rows.row_ids[order]
    found, start = [], 0
    for at, end in enumerate(ends.tolist()):
        if end > start:
            found.append((at, PackedRows(tuple(word[start:end] for word in words), row_ids[start:end])))
        start = end
    return found


def _numbers(words: Array, cuts: Array) -> Array:
    """Return the number of cuts at or below each word (int16).

    By a table of stretches of words; only words in a stretch with a cut within are compared with the cuts. That is ten
    times as fast as comparing all.
    """
    base, last = max(int(cuts[0]) - 1, 0), min(int(cuts[-1]), int(np.iinfo(words.dtype).max))
    if last < base:
        return np.zeros(len(words), np.int16)
    shift = max(0, (last - base).bit_length() - _STRETCH_BITS)
    starts = np.uint64(base) + (np.arange(((last - base) >> shift) + 1, dtype=np.uint64) << np.uint64(shift))
    table = np.searchsorted(cuts, starts, side="right").astype(np.int16)
    ends = np.minimum(starts + np.uint64((1 << shift) - 1), np.uint64(last))
    table[table != np.searchsorted(cuts, ends, side="right")] = -1
    within = np.clip(words, words.dtype.type(base), words.dtype.type(last))
    within -= words.dtype.type(base)
    within >>= words.dtype.type(shift)
    found: Array = table[within.astype(np.intp)]
    unsure = np.flatnonzero(found < 0)
    found[unsure] = np.searchsorted(cuts, words[unsure], side="right")
    return found


@dataclass(frozen=True, slots=True)
class Sorting:
    """One sort under way: its threads, where ranges are kept, how many rows one may have to be sorted in memory."""

    pool: ThreadPoolExecutor
    new_range: Callable[[], RangeRows]
    room_rows: int
    token: CancelToken
    progress: Progress | None

    def in_order(self, ranges: Iterable[Range], count: int) -> Array:
        """Return the numbers (uint32) of the ``count`` rows of ranges in the stable order of their keys.

        Raises ``StoppedError``, and ``OSError`` where they are kept on disk.
        """
        ids = np.empty(count, dtype=np.uint32)
        if self.progress is not None:
            self.progress.begin("sorting", count)
        for done in self._in_turn(partial(_sort_into, ids, each) for each in self._small(ranges)):
            self._advance(done)
        return ids

    def distributed(
        self, pieces: Iterable[Callable[[], PackedRows]], cuts: Cuts, level: int = 0, place: int = 0
    ) -> list[Range]:
        """Put rows, given in their present order, into the ranges of one of their words, and return the ranges."""
        found: dict[int, RangeRows] = {}
        try:
            for parts in self._in_turn(partial(_parts_of, piece, cuts, level) for piece in pieces):
                for at, some in parts:
                    if at not in found:
                        found[at] = self.new_range()
                    found[at].append(some)
                if level == 0:
                    self._advance(sum(len(some.row_ids) for _, some in parts))
        finally:
            for rows in found.values():
                rows.close()
        return placed_ranges(found, cuts, level, place)

    def _small(self, ranges: Iterable[Range]) -> Iterator[Range]:
        """Yield ranges in order, those of too many rows cut into smaller ones."""
        for some in ranges:
            rows = some.rows
            if rows.count <= self.room_rows or some.level >= rows.levels:
                yield some
                continue
            samples = np.concatenate([each.words[some.level] for each in rows.pieces(max(1, rows.count // _SAMPLES))])
            cuts = _cuts(samples, rows.count, self.room_rows, doubtful=True)
            inner = self.distributed((partial(_itself, each) for each in rows.pieces()), cuts, some.level, some.place)
            rows.drop()
            yield from self._small(inner)

    def _in_turn(self, calls: Iterable[Callable[[], _Result]]) -> Iterator[_Result]:
        return in_turn(calls, self.pool, self.token, block_threads())

    def _advance(self, rows: int) -> None:
        if self.progress is not None:
            self.progress.advance(rows)


def placed_ranges(found: dict[int, RangeRows], cuts: Cuts, level: int = 0, place: int = 0) -> list[Range]:
    """Return ranges by their numbers, each with the place it begins at."""
    ranges = []
    for at in sorted(found):
        ranges.append(Range(found[at], place, level + (at in cuts.same)))
        place += found[at].count
    return ranges


def _itself(rows: PackedRows) -> PackedRows:
    return rows


def _parts_of(piece: Callable[[], PackedRows], cuts: Cuts, level: int) -> list[tuple[int, PackedRows]]:
    return parted(piece(), cuts, level)


def _sort_into(ids: Array, some: Range) -> int:
    """Sort a range in memory and put its rows in their places."""
    rows = some.rows.all_rows()
    some.rows.drop()
    found = rows.row_ids
    if some.level < len(rows.words):
        words = [word.astype(np.uint64, copy=False) for word in rows.words[some.level :] if (word != word[0]).any()]
        found = found[sort_positions([(word, _bits(word)) for word in words], len(found))]
    ids[some.place : some.place + len(found)] = found
    return len(found)


def _bits(word: Array) -> int:
    return max(1, int(word.max()).bit_length())
