"""Reading the wanted rows of delimited files again: whole rows, or the texts of some columns of them, into arrays."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.block_index import BlockPlace
from yardcut.core.sources.blocks import Block, paired_quotes
from yardcut.core.sources.formats.delimited import THREADS, DelimitedFile
from yardcut.core.sources.formats.raw_rows import ChosenRows, raw_rows
from yardcut.core.sources.lining_up import wanted_places
from yardcut.core.sources.parsing import ColumnTask, ParsedBlock, parse_block
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array, ArrayWriter
from yardcut.core.table.held_bytes import HeldBytes
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table
from yardcut.core.values.kinds import Kind

Writers = tuple[ArrayWriter | HeldBytes, ArrayWriter]
"""Of the bytes of texts, each followed by a line feed, and of their offsets, which begin with 0."""


class WantedRows:
    """Goes over file after file. ``rows`` counts the rows of the table gone over so far, wanted or not."""

    def __init__(self, wanted: RowSet, token: CancelToken, progress: Progress) -> None:
        self._wanted, self._token, self._progress = wanted, token, progress
        self._done = 0
        self.rows = 0

    def of_file(
        self, file: DelimitedFile, blocks: Sequence[BlockPlace] | None, *, has_drops: bool
    ) -> Iterator[ChosenRows]:
        """Yield the wanted rows of the next file, its ``blocks`` where they stand.

        Raises ``SourceError``, ``StoppedError`` or ``OSError``.
        """
        first = self.rows
        wanted = lambda start, end: self._mask(first + start, first + end)  # noqa: E731
        for found in raw_rows(file, blocks, wanted, self._token, has_drops=has_drops):
            self.rows += found.rows
            self._progress.done = max(self._progress.done, self._done + found.bytes_read)
            if len(found.sizes):
                yield found
        self._done += file.size

    def _mask(self, first: int, end: int) -> Array | None:
        bits = self._wanted.bits
        return None if bits is None else bit.unpack(bits, first, min(end, self._wanted.table_rows))


class TextsAgain:
    """Takes the wanted rows of file after file apart, or keeps them whole, and writes them into arrays."""

    def __init__(
        self, spec: SourceSpec, table: Table, rows: WantedRows, written: Mapping[int, Writers], are_whole: bool
    ) -> None:
        self._spec, self._rows, self._written, self._are_whole = spec, rows, written, are_whole
        self._names = {number: table.columns[number].name for number in written}

    def file(self, file: DelimitedFile, blocks: Sequence[BlockPlace] | None, *, has_drops: bool) -> None:
        """Read one file. Raises ``SourceError``, ``StoppedError`` or ``OSError``."""
        places = wanted_places(file, self._spec)
        by_place = {places[name]: number for number, name in self._names.items() if name in places}
        absent = [number for number, name in self._names.items() if name not in places]
        tasks = [ColumnTask(place, Kind.TEXT, False, ()) for place in by_place]
        waiting: deque[Future[ParsedBlock]] = deque()
        with ThreadPoolExecutor(THREADS, thread_name_prefix="parse") as pool:
            try:
                for rows in self._rows.of_file(file, blocks, has_drops=has_drops):
                    if self._are_whole:
                        _append(self._written[0], np.frombuffer(rows.data, np.uint8), np.cumsum(rows.sizes))
                        continue
                    for number in absent:
                        count = len(rows.sizes)
                        _append(self._written[number], np.full(count, 10, np.uint8), np.arange(1, count + 1))
                    if tasks:
                        waiting.append(pool.submit(_parsed, rows, file, tasks))
                    if len(waiting) > 2 * THREADS + 1:
                        self._take(waiting.popleft(), by_place)
                while waiting:
                    self._take(waiting.popleft(), by_place)
            finally:
                for future in waiting:
                    future.cancel()

    def _take(self, future: Future[ParsedBlock], by_place: Mapping[int, int]) -> None:
        for chunk in future.result().chunks:
            assert chunk.plain is not None
            offsets, data, _ = chunk.plain
            first, end = int(offsets[0]), int(offsets[-1])
            _append(self._written[by_place[chunk.task.number]], data[first:end], offsets[1:] - first)


def _parsed(rows: ChosenRows, file: DelimitedFile, tasks: list[ColumnTask]) -> ParsedBlock:
    form = file.reading_form
    quotes = paired_quotes(rows.data, form) if rows.has_quotes else None
    return parse_block(Block(rows.data, rows.bytes_read, quotes), form, len(file.names), tasks)


def _append(writers: Writers, data: Array, ends: Array) -> None:
    """Write texts whose bytes end at some offsets of ``data``."""
    bytes_written, offsets = writers
    offsets.append(ends + bytes_written.count)
    bytes_written.append(data)
