"""Reading blocks of a file again by their places."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.block_index import BlockPlace
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED, offsets_of
from yardcut.core.sources.delimited_blocks.scattered_lines import Scattered
from yardcut.core.table.array_file import Array

_CARRIAGE_RETURN = 13
_ASCII_END = 128


@dataclass(frozen=True, slots=True)
class BytesRead:
    """Bytes of a block (uint8), which are there until the same thread reads the next.

    ``feeds`` are the offsets of all line feeds (int64), within quotes or not; ``has_returns`` tells whether a carriage
    return stands before any.
    """

    content: Array
    feeds: Array
    is_utf8: bool
    has_returns: bool

    def are_rows(self, rows: int) -> bool:
        """Tell whether each line is a row as it stands: there are as many, and each ends with a line feed."""
        ends_well = bool(len(self.feeds)) and int(self.feeds[-1]) == len(self.content) - 1
        return ends_well and len(self.feeds) == rows and self.is_utf8 and not self.has_returns


class BlockReader:
    """Reads blocks of one open file on any thread, each into a buffer of the thread's own.

    There are few steps, each over all of a block: threads that take turns more often wait more than they work.
    """

    def __init__(self, descriptor: int) -> None:
        self._descriptor = descriptor
        self._own = threading.local()

    def read(self, place: BlockPlace) -> BytesRead:
        """Read a block; less of it where the file has become shorter. Raises ``OSError``."""
        return self._looked_at(self.bytes_at(place.start, place.size_bytes))

    def read_scattered(self, of: Scattered) -> BytesRead | None:
        """Read groups of lines as one; ``None`` where they are no such lines. Raises ``OSError``."""
        buffer, done = self._buffer(of.size_bytes), 0
        for start, end in _runs(of.starts, of.starts + of.sizes):
            done += self._read_into(buffer[done : done + end - start], start)
        found = self._looked_at(buffer[:done])
        ends = np.cumsum(of.lines)
        if not found.are_rows(int(ends[-1])):
            return None
        return found if bool((found.feeds[ends - 1] == np.cumsum(of.sizes) - 1).all()) else None

    def _looked_at(self, content: Array) -> BytesRead:
        is_utf8 = not len(content) or int(content.max()) < _ASCII_END or _is_utf8(content)
        feeds = offsets_of(content, LINE_FEED)
        before = content[feeds[1:] - 1] if len(feeds) and feeds[0] == 0 else content[feeds - 1]
        return BytesRead(content, feeds, is_utf8, bool((before == _CARRIAGE_RETURN).any()))

    def bytes_at(self, start: int, size_bytes: int) -> Array:
        """Read some bytes (uint8); fewer where the file has ended. Raises ``OSError``."""
        buffer = self._buffer(size_bytes)
        return buffer[: self._read_into(buffer[:size_bytes], start)]

    def _buffer(self, size_bytes: int) -> Array:
        buffer: Array | None = getattr(self._own, "buffer", None)
        if buffer is None or len(buffer) < size_bytes:
            buffer = self._own.buffer = np.empty(size_bytes, np.uint8)
        return buffer

    def _read_into(self, room: Array, start: int) -> int:
        """Fill some room with the bytes from a place on; return how many there are."""
        done = 0
        while done < len(room) and (count := os.preadv(self._descriptor, [room[done:].data], start + done)):
            done += count
        return done


def _runs(starts: Array, ends: Array) -> Iterator[tuple[int, int]]:
    """Yield stretches (start, end) in order, neighbours as one."""
    first = np.flatnonzero(np.concatenate(([True], starts[1:] != ends[:-1])))
    last = np.concatenate((first[1:] - 1, [len(ends) - 1]))
    yield from zip(starts[first].tolist(), ends[last].tolist(), strict=True)


def _is_utf8(content: Array) -> bool:
    try:
        str(content.data, "utf-8")
    except UnicodeDecodeError:
        return False
    return True
