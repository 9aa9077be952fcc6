"""Counting the rows of delimited text: pieces of the file by themselves, on threads, where its quotes allow it."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.delimited_blocks.cutting import read_blocks
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED, offsets_of
from yardcut.core.sources.delimited_blocks.reading_blocks import BlockReader
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.streams import open_bytes
from yardcut.core.table.array_file import Array

_PIECE_BYTES = 1 << 21
_RETURN = 13


def count_rows(path: Path, form: Form) -> int:
    """Return how many rows end in a file, its header among them. Raises ``SourceError``, ``OSError``."""
    with open_bytes(path) as file:
        stands_as_it_is = file.compression is None and form.encoding == "utf-8" and not form.returns
    are_bytes = (form.delimiter + form.quote).isascii()
    found = _count_pieces(path, form) if stands_as_it_is and are_bytes else None
    if found is None:
        found = sum(len(block.row_ends()) for block in read_blocks(path, form, _PIECE_BYTES))
    return found


@dataclass(frozen=True, slots=True)
class _Piece:
    """What was found in some bytes of a file, for a beginning outside quotes and one within: [outside, within].

    ``rows`` are the line feeds outside quotes then, and ``pairs`` tells whether each quote opens a cell, closes one, or
    is one of two that stand for one.
    """

    rows: tuple[int, int]
    pairs: tuple[bool, bool]
    quotes: int


def _count_pieces(path: Path, form: Form) -> int | None:
    """Count line feeds with an even number of quotes before them; ``None`` where a quote may be plain text."""
    size = path.stat().st_size
    with open(path, "rb", buffering=0) as file, ThreadPoolExecutor(block_threads(), thread_name_prefix="count") as pool:
        look = partial(_look_at, BlockReader(file.fileno()), form)
        rows, quotes = 0, 0
        for piece in pool.map(look, range(0, size, _PIECE_BYTES)):
            is_within = quotes & 1
            if not piece.pairs[is_within]:
                pool.shutdown(cancel_futures=True)
                return None
            rows += piece.rows[is_within]
            quotes += piece.quotes
    return rows if not quotes & 1 else None


def _look_at(reader: BlockReader, form: Form, start: int) -> _Piece:
    """Look at a piece, and at the byte before it and the one behind it."""
    before = min(start, 1)
    content = reader.bytes_at(start - before, _PIECE_BYTES + before + 1)
    piece = content[before : before + _PIECE_BYTES]
    quotes = offsets_of(piece, ord(form.quote))
    if not len(quotes):
        return _Piece((int(np.count_nonzero(piece == LINE_FEED)), 0), (True, True), 0)
    feeds = offsets_of(piece, LINE_FEED)
    odd = int(np.count_nonzero(np.searchsorted(quotes, feeds) & 1))
    marks = np.zeros(256, dtype=np.bool_)
    marks[[ord(form.quote), ord(form.delimiter), LINE_FEED, _RETURN]] = True
    opens = _stand_beside(content, quotes + before - 1, marks)
    closes = _stand_beside(content, quotes + before + 1, marks)
    pairs = [bool(opens[first::2].all() and closes[1 - first :: 2].all()) for first in (0, 1)]
    return _Piece((len(feeds) - odd, odd), (pairs[0], pairs[1]), len(quotes))


def _stand_beside(content: Array, places: Array, marks: Array) -> Array:
    """Tell whether marks stand at some places, or nothing does: the file begins or ends there."""
    is_there = (places >= 0) & (places < len(content))
    return ~is_there | marks[content[np.where(is_there, places, 0)]]
