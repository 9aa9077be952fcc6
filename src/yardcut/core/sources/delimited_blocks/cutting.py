"""Cutting a delimited file into blocks of whole rows."""

from __future__ import annotations

import codecs
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from yardcut.core.errors import Mend, SourceError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED, feeds_in, offsets_of
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.form.encodings import READABLE
from yardcut.core.sources.streams import open_bytes
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array

LONGEST_ROW_BYTES = 1 << 28


def paired_quotes(block: bytes, form: Form) -> Array | None:
    """Find the quotes that open and close cells in a block that begins at a row's start.

    Returns their offsets, opening and closing in turn (the halves of a doubled quote count as closing and opening),
    or ``None`` when the block has none. A quote opens only at the start of a cell: in ``6" plank`` it is plain text.
    An odd number means that the last one does not close within the block.
    """
    quote = form.quote.encode()
    if quote not in block:
        return None
    data = np.frombuffer(block, dtype=np.uint8)
    places = offsets_of(data, quote[0])
    before = np.where(places > 0, data[np.maximum(places - 1, 0)], LINE_FEED)
    delimiter = form.delimiter.encode()
    opens = (before == delimiter[-1]) | (before == LINE_FEED) | (before == 13)
    inner = before == quote[0]
    # the first, third, … quote must open a cell, or be the second half of a doubled one
    regular = bool((opens[0::2] | inner[0::2]).all()) and _closes_well(data, places[1::2], delimiter[0], quote[0])
    return places if regular else _paired_one_by_one(places, opens)


def are_outside(quotes: Array | None, places: Array) -> Array:
    """Tell which offsets of a block, in ascending order, stand outside quotes."""
    if quotes is None:
        return np.ones(len(places), dtype=np.bool_)
    if len(quotes) < len(places):  # the fewer are looked for among the more
        before = np.cumsum(np.bincount(np.searchsorted(places, quotes), minlength=len(places) + 1)[:-1])
    else:
        before = np.searchsorted(quotes, places)
    outside: Array = before % 2 == 0
    return outside


def _closes_well(data: Array, closing: Array, delimiter: int, quote: int) -> bool:
    after = data[np.minimum(closing + 1, len(data) - 1)]
    ends = (after == delimiter) | (after == LINE_FEED) | (after == 13) | (after == quote)
    return bool((ends | (closing + 1 >= len(data))).all())


def _paired_one_by_one(places: Array, opens: Array) -> Array:
    """Walk over the quotes one by one, for blocks in which some are plain text."""
    kept: list[int] = []
    is_open = False
    skip = -1
    quote_places = set(places.tolist())
    for place, may_open in zip(places.tolist(), opens.tolist(), strict=True):
        if place == skip:
            continue
        if not is_open:
            if may_open:
                is_open = True
                kept.append(place)
        elif place + 1 in quote_places:
            skip = place + 1
        else:
            is_open = False
            kept.append(place)
    return np.asarray(kept, dtype=np.int64)


@dataclass(frozen=True, slots=True)
class Block:
    """Whole rows of a file as UTF-8, how far into the file reading has come, and the offsets of paired quotes.

    ``first_line`` is the line of the file (from 1) that the block begins with, ``start`` the byte; -1 where the bytes
    are not those of the file: it is compressed, or in another encoding. ``known_feeds`` are the bits of its line feeds,
    where somebody has looked for them.
    """

    data: bytes
    bytes_read: int
    quotes: Array | None
    first_line: int = 1
    start: int = -1
    known_feeds: Array | None = None

    @property
    def feeds(self) -> int:
        """How many line feeds it holds, within quotes or not."""
        return bit.count(self.feed_bits)

    @property
    def feed_bits(self) -> Array:
        """A bit for each byte that is a line feed, within quotes or not."""
        return feeds_in(self.data) if self.known_feeds is None else self.known_feeds

    def row_ends(self) -> Array:
        """Return the offsets of the line feeds outside quotes."""
        places = offsets_of(np.frombuffer(self.data, dtype=np.uint8), LINE_FEED)
        return places if self.quotes is None else places[are_outside(self.quotes, places)]

    def without_start(self, size: int) -> Block:
        """Return the block without its first bytes, which must be whole rows."""
        quotes = self.quotes
        if quotes is not None:
            quotes = quotes[quotes >= size] - size
        line = self.first_line + self.data.count(b"\n", 0, size)
        start = self.start + size if self.start >= 0 else -1
        kept = quotes if quotes is not None and len(quotes) else None
        return Block(self.data[size:], self.bytes_read, kept, line, start)

    def row_bounds(self) -> tuple[Array, Array]:
        """Return the offsets where each row starts and where its line feed stands (or the block ends)."""
        ends = self.row_ends()
        if not self.data.endswith(b"\n"):
            ends = np.append(ends, len(self.data))
        return np.concatenate(([0], ends[:-1] + 1)) if len(ends) else ends, ends

    def lines_of(self, offsets: Array) -> Array:
        """Return the lines of the file (from 1) that some offsets stand in."""
        return (
            np.searchsorted(offsets_of(np.frombuffer(self.data, dtype=np.uint8), LINE_FEED), offsets) + self.first_line
        )


def joined(first: Block, second: Block) -> Block:
    """Return two blocks that stand behind each other as one."""
    quotes = [
        block.quotes + shift for block, shift in ((first, 0), (second, len(first.data))) if block.quotes is not None
    ]
    return Block(
        first.data + second.data, second.bytes_read, np.concatenate(quotes) if quotes else None, first.first_line,
        first.start,
    )  # fmt: skip


def _check_ends(
    path: Path, block: bytes, quotes: Array | None, lines_before: int, *, last: bool, has_end: bool
) -> None:
    """Refuse a quote that is open at the end of the file, and a row that is longer than any may be."""
    still_open = int(quotes[-1]) if quotes is not None and len(quotes) % 2 else -1
    is_too_long = not has_end and len(block) > LONGEST_ROW_BYTES
    if still_open >= 0 and (last or is_too_long):
        raise _never_closes(path, lines_before + 1 + block.count(b"\n", 0, still_open))
    if is_too_long:
        raise _no_end(path, lines_before + 1)


def read_blocks(path: Path, form: Form, block_bytes: int, most_bytes: int = 0) -> Iterator[Block]:
    """Yield the file as blocks of whole rows, the header row first of all; each twice the last, up to ``most_bytes``.

    Raises ``SourceError`` when a quote does not close within ``LONGEST_ROW_BYTES``, naming the line it opened on.
    """
    plain = form.encoding in ("utf-8", "utf-8-sig")
    decoder = None if plain else codecs.getincrementaldecoder(form.encoding)("replace")
    lines_before = 0
    carry = b""
    with open_bytes(path) as file:
        start = 0 if plain and not form.returns and file.compression is None else -1
        if form.encoding == "utf-8-sig":
            carry = file.read(len(codecs.BOM_UTF8)).removeprefix(codecs.BOM_UTF8)
            start += (len(codecs.BOM_UTF8) - len(carry)) if start >= 0 else 0
        while True:
            raw = file.read(max(block_bytes, len(carry)))  # a long row is not looked through from its start too often
            last, block_bytes = not raw, max(block_bytes, min(2 * block_bytes, most_bytes))
            if decoder is not None:
                raw = decoder.decode(raw, final=last).encode("utf-8", "replace")
            if form.returns:
                raw = raw.replace(b"\r", b"\n")
            block = carry + raw
            if not block and last:
                return
            quotes = paired_quotes(block, form)
            end = len(block) if last else _last_row_end(block, quotes)
            _check_ends(path, block, quotes, lines_before, last=last, has_end=end > 0)
            if end == 0:
                carry = block
                continue
            carry = block[end:]
            data = block[:end]
            feeds = feeds_in(data)
            if data:
                inside = None if quotes is None else quotes[: np.searchsorted(quotes, end)]
                yield Block(data, file.position, inside, lines_before + 1, start, feeds)
                start += len(data) if start >= 0 else 0
            lines_before += bit.count(feeds)
            if last:
                return


def _last_row_end(block: bytes, quotes: Array | None) -> int:
    """Return the offset behind the last line feed outside quotes, or 0."""
    place = block.rfind(b"\n")
    if quotes is None or place < 0:
        return place + 1
    while place >= 0:
        before = int(np.searchsorted(quotes, place))
        if before % 2 == 0:
            return place + 1
        place = block.rfind(b"\n", 0, int(quotes[before - 1]))
    return 0


def _no_end(path: Path, line: int) -> SourceError:
    return SourceError(
        f"{path}, line {line}: this row goes on for more than {LONGEST_ROW_BYTES >> 20:,} MB without a line end",
        mend=Mend("check that it is delimited text, written to the end"),
    )


def _never_closes(path: Path, line: int) -> SourceError:
    return SourceError(
        f"{path}, line {line}: a quote opens here and never closes",
        mend=Mend("close the quote in the file, or double it where it is part of the text"),
    )


def make_readable(data: bytes) -> bytes:
    """Turn bytes that are not valid UTF-8 into what they mean in Windows-1252, leaving the rest as it is."""
    return data.decode("utf-8", READABLE).encode("utf-8")
