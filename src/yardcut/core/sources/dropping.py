"""Finding the rows of a block that are no rows of the table, and where each stands."""

from __future__ import annotations

import numpy as np

from yardcut.core.sources.blocks import Block, paired_quotes
from yardcut.core.sources.dropped import BLANK, COMMENT, REPEATED_HEADER, TOO_FEW, TOO_MANY, Dropped
from yardcut.core.sources.form import Form
from yardcut.core.table.array_file import Array

_LONGEST_TEXT = 2000


def without_headers_and_comments(block: Block, form: Form, header: tuple[bytes, ...]) -> tuple[Block, list[Dropped]]:
    """Return a block with blank lines for comment lines and rows that repeat the header, and those rows."""
    marks = [form.comment.encode()] if form.comment else []
    if not any(_may_hold(block.data, word) for word in (*header, *marks)):
        return block, []
    starts, ends = block.row_bounds()
    gone = np.zeros(len(starts), dtype=np.bool_)
    dropped: list[Dropped] = []
    wanted = set(header)
    for place, (start, end) in enumerate(zip(starts.tolist(), ends.tolist(), strict=True)):
        row = block.data[start:end]
        repeated = row.rstrip(b"\r") in wanted
        if repeated or (marks and row.lstrip().startswith(marks[0])):
            gone[place] = True
            dropped.append(Dropped(REPEATED_HEADER if repeated else COMMENT, start, _text(row)))
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


def _may_hold(data: bytes, word: bytes) -> bool:
    return data.startswith(word) or b"\n" + word in data


def blank_and_unfit(block: Block, unfit: list[tuple[str, int]], width: int) -> tuple[list[Dropped], Array]:
    """Return the dropped rows of a block, and the lines of the rows that stay.

    ``unfit`` holds the text and number of cells of each row that is not ``width`` cells wide, in sequence.
    """
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
        dropped.append(Dropped(reason, int(lines[place]), text[:_LONGEST_TEXT]))
        place += 1
    dropped.sort(key=lambda row: row.line)
    return dropped, lines[stays]


def _text(row: bytes) -> str:
    return row.rstrip(b"\r").decode("utf-8", "replace")[:_LONGEST_TEXT]
