"""Finding the rows of a block that are no rows of the table, and where each stands."""

from __future__ import annotations

import numpy as np

from yardcut.core.sources.delimited_blocks.cutting import Block, are_outside, paired_quotes
from yardcut.core.sources.delimited_blocks.dropped import (
    BELOW,
    BLANK,
    COMMENT,
    REPEATED_HEADER,
    TOO_FEW,
    TOO_MANY,
    Dropped,
)
from yardcut.core.sources.form.delimited_form import Form, records
from yardcut.core.sources.form.footers import footer_start
from yardcut.core.sources.form.table_layout import Row
from yardcut.core.table.array_file import Array
from yardcut.core.values.patterns import compiled

_LONGEST_TEXT = 2000
_LOOKED_AT = 200


def without_headers_and_comments(
    block: Block, form: Form, header: tuple[bytes, ...], width: int
) -> tuple[Block, list[Dropped]]:
    """Return a block with blank lines for comments, repeated headers and rows of separators alone, and those rows.

    Blanks between the separators are nothing either.
    """
    comment = form.comment.encode()
    nothing = b" \t" + form.delimiter.encode() if width > 1 else b""
    words = [row for row in (*header, comment) if row and _may_hold(block.data, row)]
    begins = {word[:1] for word in words} | {bytes([byte]) for byte in nothing + (b" \t" if comment in words else b"")}
    if not words and not _any_row_begins(block.data, nothing):
        return block, []
    starts, ends = block.row_bounds()
    likely = _rows_that_begin(block.data, starts, ends, begins, nothing, is_any=bool(words))
    if not likely:
        return block, []
    gone = np.zeros(len(starts), dtype=np.bool_)
    dropped: list[Dropped] = []
    for place in likely:
        row = block.data[starts[place] : ends[place]]
        bare = row.rstrip(b"\r")
        reason = REPEATED_HEADER if bare in header else ""
        if bare and nothing and not bare.strip(nothing) and bare.count(form.delimiter.encode()) == width - 1:
            reason = BLANK
        if not reason and comment and row.lstrip().startswith(comment):
            reason = COMMENT
        if reason:
            gone[place] = True
            dropped.append(Dropped(reason, int(starts[place]), _text(row)))
    lines = block.lines_of(np.array([row.line for row in dropped], dtype=np.int64)).tolist()
    placed = [Dropped(row.reason, line, row.text) for row, line in zip(dropped, lines, strict=True)]
    if not placed:
        return block, []
    # blank lines in their place: what stands below keeps its line
    data = b"".join(
        b"\n" * (block.data.count(b"\n", start, end) + 1) if drop else block.data[start : end + 1]
        for start, end, drop in zip(starts.tolist(), ends.tolist(), gone.tolist(), strict=True)
    )
    return Block(data, block.bytes_read, paired_quotes(data, form), block.first_line), placed


def _any_row_begins(data: bytes, marks: bytes) -> bool:
    """Tell whether a row begins with one of some bytes; half the time that finding all rows takes."""
    if not marks:
        return False
    pattern = "".join(f"\\x{mark:02x}" for mark in marks)
    return data[0] in marks or compiled(f"\\n[{pattern}]").search(data) is not None


def _rows_that_begin(
    data: bytes, starts: Array, ends: Array, begins: set[bytes], nothing: bytes, *, is_any: bool
) -> list[int]:
    """Return the places of the rows that begin as a row that is dropped does; few of all, by looks at single bytes.

    Where only rows of ``nothing`` are looked for, they must end with it too.
    """
    if not len(starts):
        return []
    whole = np.frombuffer(data, dtype=np.uint8)
    table = np.zeros(256, dtype=np.bool_)
    table[list(b"".join(begins))] = True
    found = (ends > starts) & table[whole[np.minimum(starts, len(whole) - 1)]]
    if not is_any:
        table[:] = False
        table[list(nothing + b"\r")] = True
        found &= table[whole[np.maximum(ends - 1, 0)]]
    return np.flatnonzero(found).tolist()


def without_footers(block: Block, form: Form, header: tuple[bytes, ...], width: int) -> tuple[Block, list[Dropped]]:
    """Return the last block of a file without the totals and notes at its end, and those; or the rows said to be."""
    if form.footer == 0 or not block.data.strip():
        return block, []
    starts, ends = block.row_bounds()
    written = {
        place: block.data[starts[place] : ends[place]].rstrip(b"\r")
        for place in range(max(0, len(starts) - _LOOKED_AT), len(starts))
    }
    reasons = {place: _reason(row, form, header) for place, row in written.items()}
    places = [place for place, reason in reasons.items() if reason == BELOW]
    rows = [
        Row(next(records(_text(written[place]), form.delimiter, form.quote), []), 0, reasons.get(place - 1) == BLANK)
        for place in places
    ]
    stays = footer_start(rows, width, form.marks) if form.footer is None else max(0, len(rows) - form.footer)
    if stays == len(rows):
        return block, []
    end = places[stays]
    dropped = [
        Dropped(reasons[place], line, _text(written[place]))
        for place, line in enumerate(block.lines_of(starts[end:]).tolist(), end)
    ]
    data = block.data[: starts[end]]
    return Block(data, block.bytes_read, paired_quotes(data, form), block.first_line, block.start), dropped


def _reason(row: bytes, form: Form, header: tuple[bytes, ...]) -> str:
    """Return why a row would be dropped behind the end of the table."""
    if not row.strip(form.delimiter.encode() + b" "):
        return BLANK
    if row in header:
        return REPEATED_HEADER
    return COMMENT if form.comment and row.lstrip().startswith(form.comment.encode()) else BELOW


def with_short_rows_filled(block: Block, form: Form, width: int) -> Block:
    """Return a block of a ragged file with separators behind the rows that have too few cells."""
    starts, ends = block.row_bounds()
    marks = np.flatnonzero(np.frombuffer(block.data, dtype=np.uint8) == ord(form.delimiter))
    marks = marks[are_outside(block.quotes, marks)]
    lacking = width - 1 - (np.searchsorted(marks, ends) - np.searchsorted(marks, starts))
    if not ((lacking > 0) & (ends > starts)).any():
        return block
    delimiter = form.delimiter.encode()
    pieces: list[bytes] = []
    for start, end, lacks in zip(starts.tolist(), ends.tolist(), lacking.tolist(), strict=True):
        row = block.data[start:end]
        bare = row.rstrip(b"\r")
        pieces += [bare + delimiter * lacks if lacks > 0 and bare else row, b"\n"]
    data = b"".join(pieces)
    return Block(data, block.bytes_read, paired_quotes(data, form), block.first_line)


def _may_hold(data: bytes, word: bytes) -> bool:
    return data.startswith(word) or b"\n" + word in data


def blank_and_unfit(
    block: Block, unfit: list[tuple[str, int]], width: int, delimiter: str
) -> tuple[list[Dropped], Array]:
    """Return the dropped rows of a block, and the lines of the rows that stay.

    ``unfit`` holds the text and number of cells of each row that is not ``width`` cells wide, in sequence.
    """
    separators = delimiter + " \r"
    starts, ends = block.row_bounds()
    sizes = ends - starts
    data = np.frombuffer(block.data, dtype=np.uint8)
    # a carriage return alone is a blank row too
    blank = (sizes == 0) | ((sizes == 1) & (data[np.minimum(starts, len(data) - 1)] == 13))
    lines = block.lines_of(starts)
    dropped = [Dropped(BLANK, line, "") for line in lines[blank].tolist()]
    stays = ~blank
    place = 0
    for text, cells in unfit:
        written = text.encode("utf-8", "replace")
        while place < len(starts) and not (
            stays[place] and block.data[starts[place] : ends[place]].rstrip(b"\r") == written.rstrip(b"\r")
        ):
            place += 1
        if place == len(starts):
            break
        stays[place] = False
        reason = TOO_MANY if cells > width else TOO_FEW
        if not text.strip(separators):
            reason = BLANK
        dropped.append(Dropped(reason, int(lines[place]), text[:_LONGEST_TEXT]))
        place += 1
    dropped.sort(key=lambda row: row.line)
    return dropped, lines[stays]


def _text(row: bytes) -> str:
    return row.rstrip(b"\r").decode("utf-8", "replace")[:_LONGEST_TEXT]
