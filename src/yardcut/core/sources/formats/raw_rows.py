"""The rows of a delimited file as they stand in it: those that became rows of the table, in their order."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial

import numpy as np

from yardcut.core.in_turn import in_turn
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.delimited_blocks.block_index import BlockPlace
from yardcut.core.sources.delimited_blocks.cutting import Block, paired_quotes
from yardcut.core.sources.delimited_blocks.dropping import with_short_rows_filled
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED
from yardcut.core.sources.delimited_blocks.parsing_blocks import parse_block, readable
from yardcut.core.sources.delimited_blocks.reading_blocks import BlockReader, BytesRead
from yardcut.core.sources.delimited_blocks.scattered_lines import Scattered, scattered_in, together
from yardcut.core.sources.formats.delimited import DelimitedFile
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts

_BLOCKS_AT_ONCE, _BYTES_AT_ONCE = 16, 1 << 22

Mask = Callable[[int, int], Array | None]
"""Tells which rows are wanted, from one row of the file to another, as booleans; ``None``: all."""


@dataclass(frozen=True, slots=True)
class ChosenRows:
    """The wanted ones of the next ``rows`` rows of a file, as UTF-8 with a line feed behind each, of ``sizes`` bytes.

    ``bytes_read`` is how far into the file reading has come; ``has_quotes`` tells whether a line feed may stand within
    quotes.
    """

    data: bytes
    sizes: Array
    rows: int
    bytes_read: int
    has_quotes: bool


@dataclass(frozen=True, slots=True)
class _RawRows:
    """Rows of a block: row ``i`` is ``data[starts[i] : ends[i]]``, its line end apart."""

    block: Block
    starts: Array
    ends: Array

    def chosen(self, mask: Array | None) -> ChosenRows:
        """Return the rows of a mask. One of another length is that of another file, and chooses none."""
        count, block = len(self.starts), self.block
        mask = np.zeros(count, dtype=np.bool_) if mask is not None and len(mask) != count else mask
        rows = slice(None) if mask is None else np.flatnonzero(mask)
        starts = self.starts[rows]
        lengths = self.ends[rows] - starts
        taken = np.full(int(lengths.sum()) + len(lengths), LINE_FEED, dtype=np.uint8)
        places = np.cumsum(lengths + 1) - lengths - 1
        copy_texts(np.frombuffer(block.data, dtype=np.uint8), starts, lengths, taken, places)
        return ChosenRows(taken.tobytes(), lengths + 1, count, block.bytes_read, block.quotes is not None)


@dataclass(frozen=True, slots=True)
class _Task:
    """What is to be found of the next ``rows`` rows: those of a block that a reader has cut, or that stands at a place
    of which some rows are wanted, or scattered ones. Of neighbours without a wanted row only their number is told.
    """

    rows: int = 0
    block: Block | None = None
    place: BlockPlace | None = None
    mask: Array | None = None
    scattered: Scattered | None = None


def raw_rows(
    file: DelimitedFile, places: Sequence[BlockPlace] | None, wanted: Mask, token: CancelToken, *, has_drops: bool
) -> Iterator[ChosenRows]:
    """Yield the wanted rows of a file, block by block; where rows were dropped it is told again which.

    Where ``places`` tell where the blocks stand, those without a wanted row are passed over. Raises ``SourceError``,
    ``StoppedError`` or ``OSError``.
    """
    row = 0
    with (
        open(file.path, "rb", buffering=0) as source,
        ThreadPoolExecutor(block_threads(), thread_name_prefix="rows") as pool,
        ThreadPoolExecutor(1, "blocks") as cutter,
    ):
        may_be_lines = not has_drops and not file.reading_form.ragged
        found_tasks = _body(file) if places is None else _known(places, wanted, may_be_lines=may_be_lines)
        blocks = _one_ahead(found_tasks, cutter)
        reader = BlockReader(source.fileno())
        calls = (partial(_rows_of, task, file, reader, has_drops) for task in blocks)
        for found in in_turn(calls, pool, token, file.blocks_ahead):
            if isinstance(found, _RawRows):
                found = found.chosen(wanted(row, row + len(found.starts)))
            row += found.rows
            yield found


def _one_ahead(tasks: Iterator[_Task], cutter: ThreadPoolExecutor) -> Iterator[_Task]:
    """Yield tasks, the next of which is found meanwhile."""
    coming = cutter.submit(next, tasks, None)
    while (task := coming.result()) is not None:
        coming = cutter.submit(next, tasks, None)
        yield task


def _body(file: DelimitedFile) -> Iterator[_Task]:
    for block in file.body_blocks():
        yield _Task(block=block)


def _known(places: Sequence[BlockPlace], wanted: Mask, *, may_be_lines: bool) -> Iterator[_Task]:
    """Yield the blocks of which rows are wanted, and what stands scattered over several of them as one."""
    row = rows = held_bytes = 0
    held = list[Scattered]()

    def scattered() -> Iterator[_Task]:
        if rows:
            yield _Task(rows, scattered=together(held) if held else None)

    for first in range(0, len(places), _BLOCKS_AT_ONCE):
        some = places[first : first + _BLOCKS_AT_ONCE]
        count = sum(place.rows for place in some)
        mask = wanted(row, row + count)
        row += count
        is_passed_over = mask is not None and not mask.any()
        few = scattered_in(some, mask) if mask is not None and may_be_lines and not is_passed_over else None
        if few is None and not is_passed_over:
            yield from scattered()
            rows, held, held_bytes = 0, [], 0
            yield from _one_by_one(some, mask)
            continue
        rows += count
        if few is not None:
            held.append(few)
            held_bytes += few.size_bytes
        if held_bytes >= _BYTES_AT_ONCE:
            yield from scattered()
            rows, held, held_bytes = 0, [], 0
    yield from scattered()


def _one_by_one(places: Sequence[BlockPlace], mask: Array | None) -> Iterator[_Task]:
    """Yield the blocks of which rows are wanted, and of others only the number of their rows."""
    row = 0
    for place in places:
        own = None if mask is None else mask[row : row + place.rows]
        row += place.rows
        if own is None or own.any():
            yield _Task(place.rows, None, place, own)
        else:
            yield _Task(place.rows)


def _rows_of(task: _Task, file: DelimitedFile, reader: BlockReader, has_drops: bool) -> _RawRows | ChosenRows:
    if task.block is not None:
        return _rows_in(task.block, file, has_drops)
    if task.place is not None:
        return _rows_at(task.place, task.mask, file, reader, has_drops)
    if task.scattered is None:
        return ChosenRows(b"", np.zeros(0, dtype=np.int64), task.rows, 0, False)
    found, (last, _) = reader.read_scattered(task.scattered), task.scattered.blocks[-1]
    if found is not None:
        return replace(_lines(found, last, task.scattered.wanted), rows=task.rows)
    parts = [_rows_at(place, mask, file, reader, has_drops) for place, mask in task.scattered.blocks]
    data, sizes = b"".join(part.data for part in parts), np.concatenate([part.sizes for part in parts])
    return ChosenRows(data, sizes, task.rows, parts[-1].bytes_read, any(part.has_quotes for part in parts))


def _rows_at(
    place: BlockPlace, mask: Array | None, file: DelimitedFile, reader: BlockReader, has_drops: bool
) -> ChosenRows:
    """Return the wanted rows of a block by its place."""
    found = reader.read(place)
    if found.are_rows(place.rows) and not has_drops and not file.reading_form.ragged:
        return _lines(found, place, mask)
    data = found.content.tobytes()
    block = Block(data, place.start + place.size_bytes, paired_quotes(data, file.reading_form))
    return _rows_in(block, file, has_drops).chosen(mask)


def _lines(found: BytesRead, place: BlockPlace, mask: Array | None) -> ChosenRows:
    """Return the wanted ones of rows that are lines as they stand; neighbours are copied as one.

    There being as many lines as rows, no line feed stands within quotes, and no quote need be looked at.
    """
    ends = found.feeds + 1
    bytes_read = place.start + place.size_bytes
    if mask is None or mask.all():
        return ChosenRows(found.content.tobytes(), np.diff(ends, prepend=0), place.rows, bytes_read, False)
    begins, behind = bit.runs_of(mask)
    bounds = np.concatenate(([0], ends))
    starts = bounds[begins]
    sizes = bounds[behind] - starts
    taken = np.empty(int(sizes.sum()), dtype=np.uint8)
    copy_texts(found.content, starts, sizes, taken, np.cumsum(sizes) - sizes)
    return ChosenRows(taken.tobytes(), np.diff(bounds)[mask], place.rows, bytes_read, False)


def _rows_in(block: Block, file: DelimitedFile, has_drops: bool) -> _RawRows:
    """Find the rows of a block, whatever it holds."""
    form = file.reading_form
    block, _ = readable(block, form)
    if form.ragged:
        block = with_short_rows_filled(block, form, len(file.names))
    starts, ends = block.row_bounds()
    if has_drops and len(starts):
        parsed = parse_block(replace(block), form, len(file.names), [], file.raw_header)
        if parsed.rows != len(starts):
            kept = (
                np.arange(parsed.first_line, parsed.first_line + parsed.rows) if parsed.lines is None else parsed.lines
            )
            places = np.searchsorted(block.lines_of(starts), kept[: parsed.rows])
            starts, ends = starts[places], ends[places]
    if len(starts) and b"\r" in block.data:
        data = np.frombuffer(block.data, dtype=np.uint8)
        ends = ends - ((ends > starts) & (data[np.maximum(ends - 1, 0)] == 13))
    return _RawRows(block, starts, ends)
