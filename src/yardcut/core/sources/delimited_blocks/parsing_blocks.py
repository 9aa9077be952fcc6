"""Parsing one block of a delimited file into columns: pyarrow does the fast part, odd values are read one by one."""

from __future__ import annotations

import re
from dataclasses import field
from typing import Any

import numpy as np

from yardcut.core.errors import SourceError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.cutting import Block, make_readable, paired_quotes
from yardcut.core.sources.delimited_blocks.dropped import BLANK, Dropped
from yardcut.core.sources.delimited_blocks.dropping import (
    blank_and_unfit,
    with_short_rows_filled,
    without_headers_and_comments,
)
from yardcut.core.sources.delimited_blocks.line_feeds import groups_in
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.kinds.guessing_kinds import NeverNumericError, convert
from yardcut.core.sources.kinds.leading_zeros import columns_with_leading_zeros
from yardcut.core.sources.store.builders import PlainParts, numeric_parts, plain_parts
from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.values.missing import MISSING_TEXTS
from yardcut.core.values.temporal import offset_written

_COLUMN_NUMBER = re.compile(r"In CSV column #(\d+)")
_LEAST_BLOCK_BYTES = 1 << 21


@dataclass(frozen=True, slots=True)
class ColumnTask:
    """How one column of a block is to be read; kind ``None`` means not known yet, read as text."""

    number: int
    kind: Kind | None
    coded: bool
    no_values: tuple[str, ...] = MISSING_TEXTS


@dataclass(slots=True)
class ColumnChunk:
    """One column of one block: numbers, or a pyarrow array of texts (``plain`` as bytes too); and what did not fit.

    ``lines`` are those of the file that the unfit values stand in; ``wider`` names the kind the column must take
    instead, when this block showed that it must. ``zones`` are those that texts of instants are written in.
    """

    task: ColumnTask
    values: Array | None = None
    valid: Array | None = None
    texts: Any = None
    plain: PlainParts | None = None
    unfit: list[tuple[int, str]] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    wider: Kind | None = None
    zones: set[str] = field(default_factory=set)


@dataclass(slots=True)
class ParsedBlock:
    """Some rows of a file by columns, how far reading has come, and what was dropped on the way.

    The rows stand on the lines from ``first_line`` (0: unknown) on, or, where they do not fill one line each, on
    ``lines``. ``unreadable_line`` is the first line (from 1) with bytes that the file's encoding does not have, or 0;
    ``zeros`` counts the bytes that are zero. In the file they are the ``size_bytes`` from ``start`` on (-1: unknown);
    where each line of these is a row, ``groups`` tells where every 64th begins.
    """

    rows: int
    chunks: list[ColumnChunk]
    bytes_read: int
    dropped: list[Dropped] = field(default_factory=list)
    unreadable_line: int = 0
    first_line: int = 0
    lines: Array | None = None
    zeros: int = 0
    start: int = -1
    size_bytes: int = 0
    groups: Array | None = None


def _arrow_type(task: ColumnTask) -> Any:
    import pyarrow as pa

    if task.kind in (None, Kind.TEXT):
        return pa.dictionary(pa.int32(), pa.string()) if task.coded and task.kind else pa.string()
    return {
        Kind.INTEGER: pa.int64(),
        Kind.NUMBER: pa.float64(),
        Kind.BOOLEAN: pa.bool_(),
        Kind.DATE: pa.date32(),
        Kind.TIMESTAMP: pa.timestamp("us"),
        Kind.INSTANT: pa.string(),  # its offset is wanted too
        Kind.TIME: pa.time64("us"),
    }[task.kind]


def parse_block(
    block: Block, form: Form, width: int, tasks: list[ColumnTask], header: tuple[bytes, ...] = ()
) -> ParsedBlock:
    """Parse the given columns of a block of whole rows, each ``width`` cells wide.

    ``header`` holds the raw header rows, which are dropped where they stand again. Raises ``SourceError`` when the
    block cannot be parsed at all.
    """
    as_read = block
    block, unreadable_line = readable(block, form)
    if form.ragged:
        block = with_short_rows_filled(block, form, width)
    block, dropped = without_headers_and_comments(block, form, header, width)
    if block.data[:1] in b"\r\n" and not block.data.strip(b"\r\n"):
        blank, _ = blank_and_unfit(block, [], width, form.delimiter) if block.data else ([], None)
        return ParsedBlock(0, [], block.bytes_read, _together(dropped, blank))
    chunks, rows, unfit = _chunks(block, form, width, tasks)
    found = [chunks[task.number] for task in tasks if task.number in chunks]
    lines: Array | None = None
    if block.feeds + (not block.data.endswith(b"\n")) != rows:
        # some rows are blank or of another width, or some cells hold line feeds
        more, lines = blank_and_unfit(block, unfit, width, form.delimiter)
        dropped = _together(dropped, more)
    for chunk in found:
        places = range(block.first_line, block.first_line + rows) if lines is None else lines
        chunk.lines = [int(places[index]) if index < len(places) else 0 for index, _ in chunk.unfit]
    return ParsedBlock(
        rows, found, block.bytes_read, dropped, unreadable_line, block.first_line, lines, _zeros(block.data),
        as_read.start, len(as_read.data), _groups(as_read, rows),
    )  # fmt: skip


def _groups(block: Block, rows: int) -> Array | None:
    """Return where every 64th row of a block begins, where that can be of use: each of its lines is a row."""
    if block.start < 0 or block.feeds != rows or not block.data.endswith(b"\n") or b"\r" in block.data:
        return None
    return groups_in(block.feed_bits, len(block.data))


def _zeros(data: bytes) -> int:
    return data.count(0) if b"\0" in data else 0


def _together(removed: list[Dropped], found: list[Dropped]) -> list[Dropped]:
    """Put the rows removed beforehand, of which only blank lines were left, among those found afterwards."""
    lines = {row.line + offset for row in removed for offset in range(row.text.count("\n") + 1)}
    rest = [row for row in found if row.reason != BLANK or row.line not in lines]
    return sorted(removed + rest, key=lambda row: row.line)


def _chunks(
    block: Block, form: Form, width: int, tasks: list[ColumnTask]
) -> tuple[dict[int, ColumnChunk], int, list[tuple[str, int]]]:
    """Return the chunks of columns by their number, how many rows there are, and the rows of another width."""
    by_missing: dict[tuple[str, ...], list[ColumnTask]] = {}
    for task in tasks:
        by_missing.setdefault(task.no_values, []).append(task)
    chunks: dict[int, ColumnChunk] = {}
    rows = 0
    unfit: list[tuple[str, int]] = []
    for no_values, some in (by_missing or {MISSING_TEXTS: []}).items():
        table, as_text, unfit = _read_csv(block, form, width, some, no_values)
        rows = table.num_rows if table is not None else 0
        if table is None:
            continue
        numeric = [task.number for task in some if task.kind is not None and task.kind.is_numeric]
        zeros = columns_with_leading_zeros(block, form, first_column=0 in numeric) if numeric else set()
        for task in some:
            chunks[task.number] = _chunk(
                task, table.column(str(task.number)), form, task.number in as_text, task.number in zeros
            )
    return chunks, rows, unfit


def _read_csv(
    block: Block, form: Form, width: int, tasks: list[ColumnTask], no_values: tuple[str, ...]
) -> tuple[Any, set[int], list[tuple[str, int]]]:
    """Return pyarrow's table, the columns it could only read as text, and the rows of another width."""
    import pyarrow as pa
    from pyarrow import csv

    unfit: list[tuple[str, int]] = []

    def pass_over(row: Any) -> str:
        unfit.append((row.text, row.actual_columns))
        return "skip"

    types = {str(task.number): _arrow_type(task) for task in tasks}
    as_text: set[int] = set()
    while True:
        unfit.clear()
        try:
            table = csv.read_csv(
                pa.BufferReader(block.data),
                csv.ReadOptions(use_threads=False, block_size=max(len(block.data) + 16, _LEAST_BLOCK_BYTES),
                                column_names=[str(number) for number in range(width)]),
                csv.ParseOptions(delimiter=form.delimiter, quote_char=form.quote,
                                 newlines_in_values=block.quotes is not None,
                                 invalid_row_handler=pass_over),
                csv.ConvertOptions(column_types=types, null_values=list(no_values), strings_can_be_null=True,
                                   include_columns=[str(task.number) for task in tasks] or ["0"],
                                   true_values=["true", "TRUE", "True"], false_values=["false", "FALSE", "False"],
                                   decimal_point=form.decimal),
            )  # fmt: skip
            return table, as_text, unfit
        except pa.ArrowInvalid as error:
            match = _COLUMN_NUMBER.search(str(error))
            if match and int(match.group(1)) < width and int(match.group(1)) not in as_text:
                as_text.add(int(match.group(1)))
                types[match.group(1)] = pa.string()
            elif "Empty CSV" in str(error):
                return None, as_text, unfit
            else:
                raise SourceError(f"a part of the file cannot be read: {error}") from error


def readable(block: Block, form: Form) -> tuple[Block, int]:
    """Return a block as valid UTF-8, and the first line that was not: its bytes are read as Windows-1252."""
    if block.data.isascii():
        return block, 0
    try:
        block.data.decode("utf-8")
    except UnicodeDecodeError as error:
        data = make_readable(block.data)
        line = int(block.lines_of(np.array([error.start]))[0])
        return Block(data, block.bytes_read, paired_quotes(data, form), block.first_line), line
    return block, 0


def _chunk(task: ColumnTask, column: Any, form: Form, as_text: bool, leading_zero: bool) -> ColumnChunk:
    import pyarrow as pa

    array = column.combine_chunks() if column.num_chunks != 1 else column.chunk(0)
    chunk = ColumnChunk(task)
    if task.kind is None or task.kind is Kind.TEXT:
        chunk.texts = array.combine_chunks() if isinstance(array, pa.ChunkedArray) else array
        if task.kind is Kind.TEXT and not task.coded:
            chunk.plain = plain_parts(chunk.texts)
        return chunk
    if leading_zero and task.kind.is_numeric:
        chunk.wider = Kind.TEXT
        return chunk
    if not as_text and task.kind is not Kind.INSTANT:
        chunk.values, chunk.valid = numeric_parts(array)
        if task.kind is Kind.NUMBER and not _finite(chunk.values, chunk.valid):
            # a word such as "inf" that pyarrow takes for a number
            texts = [None if text is None else repr(text) for text in array.to_pylist()]
            convert_chunk(chunk, texts, Kind.NUMBER, ".")
        return chunk
    convert_chunk(chunk, array.to_pylist(), task.kind, form.marks)
    return chunk


def _finite(values: Array, valid: Array | None) -> bool:
    return bool(np.isfinite(values).all() if valid is None else np.isfinite(values[valid]).all())


def convert_chunk(chunk: ColumnChunk, texts: list[str | None], kind: Kind, marks: str) -> None:
    """Read texts as values of a kind into a chunk, noting what does not fit or what wider kind it takes."""
    try:
        read = convert(texts, kind, marks)
        if kind is Kind.INTEGER and any(convert([text], Kind.NUMBER, marks).values[0] is not None
                                        for _, text in read.unfit):  # fmt: skip
            chunk.wider = Kind.NUMBER
            return
    except NeverNumericError:
        chunk.wider = Kind.TEXT
        return
    chunk.unfit = read.unfit
    if kind is Kind.INSTANT:
        chunk.zones = {offset_written(text) for text in texts if text is not None}
    empty = float("nan") if kind is Kind.NUMBER else 0
    chunk.values = np.array([empty if value is None else value for value in read.values], dtype=STORAGE_DTYPE[kind])
    valid = np.array([value is not None for value in read.values], dtype=np.bool_)
    chunk.valid = None if valid.all() else valid
