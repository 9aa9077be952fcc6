"""The rows of a delimited file as they stand in it: those that became rows of the table, in their order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from yardcut.core.progress import CancelToken
from yardcut.core.sources.block_index import BlockPlace
from yardcut.core.sources.blocks import Block, lines_in, paired_quotes
from yardcut.core.sources.dropping import with_short_rows_filled
from yardcut.core.sources.formats.delimited import THREADS, DelimitedFile
from yardcut.core.sources.parsing import parse_block, readable
from yardcut.core.table.array_file import Array

Mask = Callable[[int, int], Array | None]
"""Tells which rows are wanted, from one row of the file to another, as booleans; ``None``: all."""


@dataclass(frozen=True, slots=True)
class ChosenRows:
    """The wanted ones of the next ``rows`` rows of a file, as UTF-8 with a line feed behind each, of ``sizes`` bytes.

    ``bytes_read`` is how far into the file reading has come; ``has_quotes`` tells whether any cell may stand in quotes.
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
        count, data = len(self.starts), self.block.data
        sizes = self.ends - self.starts + 1
        if mask is None or (len(mask) == count and mask.all()):
            taken = self._all(sizes)
        elif len(mask) != count:
            taken, sizes = b"", sizes[:0]
        elif self._is_gapless(sizes):
            taken, sizes = np.frombuffer(data, dtype=np.uint8)[np.repeat(mask, sizes)].tobytes(), sizes[mask]
        else:
            pairs = zip(self.starts[mask].tolist(), self.ends[mask].tolist(), strict=True)
            taken, sizes = b"".join([data[start:end] + b"\n" for start, end in pairs]), sizes[mask]
        return ChosenRows(taken, sizes, count, self.block.bytes_read, self.block.quotes is not None)

    def _is_gapless(self, sizes: Array) -> bool:
        """Tell whether the rows stand one behind the other with nothing between them, the last line feed included."""
        return int(sizes.sum()) == len(self.block.data)

    def _all(self, sizes: Array) -> bytes:
        if not len(sizes) or self._is_gapless(sizes):
            return self.block.data if len(sizes) else b""
        data = self.block.data
        return b"".join(
            [data[start:end] + b"\n" for start, end in zip(self.starts.tolist(), self.ends.tolist(), strict=True)]
        )


@dataclass(frozen=True, slots=True)
class _Task:
    """A block whose rows are to be found, and which of them, where that is known; none at all: they are passed over."""

    block: Block | None
    mask: Array | None
    rows: int


def raw_rows(
    file: DelimitedFile, places: Sequence[BlockPlace] | None, wanted: Mask, token: CancelToken, *, has_drops: bool
) -> Iterator[ChosenRows]:
    """Yield the wanted rows of a file, block by block; where rows were dropped it is told again which.

    Where ``places`` tell where the blocks stand, those without a wanted row are passed over. Raises ``SourceError``,
    ``StoppedError`` or ``OSError``.
    """
    row, blocks = 0, _body(file) if places is None else _blocks_at(file, places, wanted, has_drops)
    waiting: deque[Future[_RawRows | ChosenRows]] = deque()

    def next_rows() -> ChosenRows:
        nonlocal row
        found = waiting.popleft().result()
        if isinstance(found, _RawRows):
            found = found.chosen(wanted(row, row + len(found.starts)))
        row += found.rows
        return found

    with ThreadPoolExecutor(THREADS, thread_name_prefix="rows") as pool, ThreadPoolExecutor(1, "blocks") as reader:
        try:
            coming = reader.submit(next, blocks, None)
            while (task := coming.result()) is not None:
                token.check()
                coming = reader.submit(next, blocks, None)
                waiting.append(pool.submit(_rows_of, task, file, has_drops))
                if len(waiting) > 2 * THREADS:
                    yield next_rows()
            while waiting:
                token.check()
                yield next_rows()
        finally:
            for future in waiting:
                future.cancel()


def _body(file: DelimitedFile) -> Iterator[_Task]:
    for block in file.body_blocks():
        yield _Task(block, None, -1)


def _blocks_at(file: DelimitedFile, places: Sequence[BlockPlace], wanted: Mask, has_drops: bool) -> Iterator[_Task]:
    """Yield the blocks at some places, and which of their rows are wanted.

    Where there are as many lines as rows, no line feed stands within quotes, and these need not be looked at.
    """
    row, form = 0, file.reading_form
    with open(file.path, "rb") as source:
        for place in places:
            mask = wanted(row, row + place.rows)
            row += place.rows
            if mask is not None and not mask.any():
                yield _Task(None, None, place.rows)
                continue
            source.seek(place.start)
            data = source.read(place.size_bytes)
            lines = lines_in(data) + (not data.endswith(b"\n"))
            quotes = None if lines == place.rows and not has_drops else paired_quotes(data, form)
            yield _Task(Block(data, place.start + place.size_bytes, quotes), mask, place.rows)


def _rows_of(task: _Task, file: DelimitedFile, has_drops: bool) -> _RawRows | ChosenRows:
    if task.block is None:
        return ChosenRows(b"", np.zeros(0, dtype=np.int64), task.rows, 0, False)
    form = file.reading_form
    block, _ = readable(task.block, form)
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
    found = _RawRows(block, starts, ends)
    return found if task.rows < 0 else found.chosen(task.mask)
