"""Reading the wanted rows of delimited files again: whole rows, or the texts of some columns of them, into arrays."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial

import numpy as np

from yardcut.core.in_turn import in_turn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.delimited_blocks.block_index import BlockPlace
from yardcut.core.sources.delimited_blocks.cutting import Block, paired_quotes
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnTask, ParsedBlock, parse_block
from yardcut.core.sources.form.lining_up import wanted_places
from yardcut.core.sources.formats.delimited import DelimitedFile
from yardcut.core.sources.formats.raw_rows import ChosenRows, raw_rows
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array, ArrayWriter
from yardcut.core.table.held_bytes import HeldBytes
from yardcut.core.table.rowset import RowSet
from yardcut.core.values.kinds import Kind

Writers = tuple[ArrayWriter | HeldBytes, ArrayWriter]
"""Of the bytes of texts, each followed by a line feed, and of their offsets, which begin with 0."""


class WantedRows:
    """Goes over file after file. ``rows`` counts the rows of the table gone over so far, wanted or not."""

    def __init__(self, wanted: RowSet, token: CancelToken, progress: Progress) -> None:
        self._wanted, self.token, self._progress = wanted, token, progress
        self._done = 0
        self.rows = 0

    def of_file(
        self, file: DelimitedFile, blocks: Sequence[BlockPlace] | None, *, has_drops: bool
    ) -> Iterator[ChosenRows]:
        """Yield the wanted rows of the next file, its ``blocks`` where they stand.

        Raises ``SourceError``, ``StoppedError`` or ``OSError``.
        """
        first = self.rows
        if first >= self._wanted.table_rows:  # of a source that was read in part
            return
        wanted = lambda start, end: self._mask(first + start, first + end)  # noqa: E731
        for found in raw_rows(file, blocks, wanted, self.token, has_drops=has_drops):
            self.rows += found.rows
            self._progress.done = max(self._progress.done, self._done + found.bytes_read)
            if len(found.sizes):
                yield found
            if self.rows >= self._wanted.table_rows:
                break
        self._done += file.size

    def _mask(self, first: int, end: int) -> Array | None:
        bits = self._wanted.bits
        return None if bits is None else bit.unpack(bits, first, min(end, self._wanted.table_rows))


Apart = Callable[[ChosenRows, DelimitedFile], Sequence[tuple[Array, Array]]]
"""Takes rows apart: returns for each text of a row the bytes of all of them, a line feed behind each, and the offsets
behind these."""


def read_apart(
    rows: WantedRows, file: DelimitedFile, blocks: Sequence[BlockPlace] | None, apart: Apart,
    written: Sequence[Writers], *, has_drops: bool,
) -> None:  # fmt: skip
    """Take the wanted rows of the next file apart on threads, and write their texts into arrays, in their order.

    Raises ``SourceError``, ``StoppedError`` or ``OSError``, and what ``apart`` does.
    """
    calls = (partial(apart, found, file) for found in rows.of_file(file, blocks, has_drops=has_drops))
    with ThreadPoolExecutor(block_threads(), thread_name_prefix="parse") as pool:
        for texts in in_turn(calls, pool, rows.token, file.blocks_ahead):
            for (data, ends), (bytes_written, offsets) in zip(texts, written, strict=True):
                offsets.append(ends + bytes_written.count)
                bytes_written.append(data)


def columns_apart(spec: SourceSpec, names: Sequence[str]) -> Apart:
    """Return what takes rows apart into the texts of some columns; empty ones where a file lacks a column."""

    def apart(rows: ChosenRows, file: DelimitedFile) -> list[tuple[Array, Array]]:
        places = wanted_places(file, spec)
        tasks = [ColumnTask(places[name], Kind.TEXT, False, ()) for name in names if name in places]
        found = {chunk.task.number: chunk.plain for chunk in _parsed(rows, file, tasks).chunks} if tasks else {}
        texts = []
        for name in names:
            plain = found[places[name]] if name in places else None
            if plain is None:
                texts.append((np.full(len(rows.sizes), 10, np.uint8), np.arange(1, len(rows.sizes) + 1)))
            else:
                offsets, data, _ = plain
                first, end = int(offsets[0]), int(offsets[-1])
                texts.append((data[first:end], offsets[1:] - first))
        return texts

    return apart


def _parsed(rows: ChosenRows, file: DelimitedFile, tasks: list[ColumnTask]) -> ParsedBlock:
    form = file.reading_form
    quotes = paired_quotes(rows.data, form) if rows.has_quotes else None
    return parse_block(Block(rows.data, rows.bytes_read, quotes), form, len(file.names), tasks)
