"""Sorting more rows than memory should hold: sorted runs on disk, merged range by range.

Runs of as many rows as fit are sorted and written, each word of the key as an array of its own, and mapped. Then the
key's range is cut where samples of all runs say so; what lies between two cuts is gathered from every run, sorted in
memory, and done with. A word that is the same in more rows than fit is left behind, and its rows are cut by the next
word; rows that are equal in all words stay in the order of their runs, which is that of the source (external sorting by
distribution: Knuth, The Art of Computer Programming 3, 5.4.9).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.fields import Field
from yardcut.core.ranking.packing import pack_words, sort_positions
from yardcut.core.table.array_file import Array

_SAMPLES_A_RUN = 4096


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """Rows in the order of their words: word after word (uint64), and the rows' numbers (uint32), of one length."""

    words: tuple[Array, ...]
    row_ids: Array


@dataclass(frozen=True, slots=True, eq=False)
class Slice:
    """Some consecutive rows of a run."""

    run: Run
    first: int
    end: int

    def word(self, level: int, step: int = 1) -> Array:
        """Return a word of the rows, or of every ``step``-th of them."""
        return self.run.words[level][self.first : self.end : step]


Block = tuple[list[Field], Array]
"""The key of some rows as fields, and the rows' numbers."""


def sort_on_disk(
    blocks: Iterator[Block], count: int, room_rows: int, folder: Path, token: CancelToken,
    progress: Progress | None = None,
) -> Array:  # fmt: skip
    """Return the numbers (uint32) of ``count`` rows in the stable order of their keys.

    ``blocks`` give the rows in their present order, each few enough to be sorted in memory, as ``room_rows`` are.
    Raises ``OSError`` and ``StoppedError``.
    """
    runs: list[Run] = []
    for fields, row_ids in blocks:
        token.check()
        runs.append(_written(fields, row_ids, folder / f"run-{len(runs)}"))
    if progress is not None:
        progress.begin("merging", count)
    merged = np.empty(count, dtype=np.uint32)
    done = 0
    for ids in _merged([Slice(run, 0, len(run.row_ids)) for run in runs if len(run.row_ids)], 0, room_rows, token):
        merged[done : done + len(ids)] = ids
        done += len(ids)
        if progress is not None:
            progress.advance(len(ids))
    return merged


def _written(fields: list[Field], row_ids: Array, path: Path) -> Run:
    """Sort a block, write it, and map what was written."""
    order = sort_positions(fields, len(row_ids))
    words = [word for word, _ in pack_words(fields)]
    with open(path, "wb") as file:
        for word in words:
            file.write(word[order].tobytes())
        file.write(row_ids[order].astype(np.uint32).tobytes())
    count = len(row_ids)
    if not count:
        return Run(tuple(words), row_ids)
    mapped = tuple(np.memmap(path, np.uint64, "r", 8 * count * place, (count,)) for place in range(len(words)))
    return Run(mapped, np.memmap(path, np.uint32, "r", 8 * count * len(words), (count,)))


def _merged(slices: list[Slice], level: int, room_rows: int, token: CancelToken) -> Iterator[Array]:
    """Yield the numbers of the rows of some slices, equal in all words before ``level``, in order."""
    token.check()
    count = sum(each.end - each.first for each in slices)
    if not count:
        return
    levels = len(slices[0].run.words)
    if level == levels:
        for each in slices:
            yield each.run.row_ids[each.first : each.end]
    elif count <= room_rows:
        fields = [(np.concatenate([each.word(at) for each in slices]), 64) for at in range(level, levels)]
        ids = np.concatenate([each.run.row_ids[each.first : each.end] for each in slices])
        yield ids[sort_positions(fields, count)]
    else:
        for part, is_one_word in _cut(slices, level, count, room_rows):
            yield from _merged(part, level + is_one_word, room_rows, token)


def _cut(slices: list[Slice], level: int, count: int, room_rows: int) -> Iterator[tuple[list[Slice], bool]]:
    """Cut slices by a word, in order; tells of each part whether that word is the same in all its rows."""
    step = max(1, count // (_SAMPLES_A_RUN * len(slices)))
    samples = np.sort(np.concatenate([each.word(level, step) for each in slices]))
    parts = 2 * -(-count // room_rows)
    cuts = np.unique(samples[np.linspace(0, len(samples) - 1, parts + 1).astype(np.int64)])
    places = [each.first for each in slices]
    for cut in cuts:
        for side in ("left", "right"):
            ends = [each.first + int(np.searchsorted(each.word(level), cut, side)) for each in slices]
            yield _between(slices, places, ends), side == "right"
            places = ends
    yield _between(slices, places, [each.end for each in slices]), False


def _between(slices: list[Slice], starts: list[int], ends: list[int]) -> list[Slice]:
    return [
        Slice(each.run, start, end)
        for each, start, end in zip(slices, starts, ends, strict=True)
        if end > start
    ]  # fmt: skip
