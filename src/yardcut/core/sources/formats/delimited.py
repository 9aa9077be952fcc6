"""Delimited text: cut into blocks of whole rows, parsed on threads, in the file's order."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.in_turn import in_turn
from yardcut.core.progress import CancelToken, EnoughRows
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.delimited_blocks.cutting import Block, joined, read_blocks
from yardcut.core.sources.delimited_blocks.dropped import ABOVE, COMMENT, Dropped
from yardcut.core.sources.delimited_blocks.dropping import without_footers
from yardcut.core.sources.delimited_blocks.held_blocks import held_blocks
from yardcut.core.sources.delimited_blocks.parsing_blocks import ParsedBlock, parse_block
from yardcut.core.sources.form.delimited_form import Form, column_names, read_head, records
from yardcut.core.sources.form.guessing_form import guess_form
from yardcut.core.sources.form.headers import joined_names
from yardcut.core.sources.formats.source_file import Tasks
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.kinds.doubts import lost_codes
from yardcut.core.sources.kinds.guessing_kinds import guess_kind
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.streams import is_compressed
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

_BLOCK_BYTES = 1 << 21
FIRST_BLOCK_BYTES = 1 << 17
"""Of a file whose first rows alone are wanted: what is read beyond them is read for nothing."""
_BLOCK_BYTES_PER_COLUMN = 1 << 13
_MOST_BLOCK_BYTES = 1 << 26
_MOST_BYTES_AHEAD = 1 << 26
_LEAST_LAST_BYTES = 1 << 15
_SAMPLE_ROWS = 600
_SAMPLE_CELLS = 100_000


class DelimitedFile:
    """One delimited file, compressed or not. Where it ``grows``, its first blocks are small, and there soon."""

    def __init__(
        self, path: Path, spec: SourceSpec, label: str | None = None, *, block_bytes: int = 0, grows: bool = False
    ) -> None:
        self.path = path
        self._grows = grows
        self.label = label or path.name
        self.number = 0
        self.zones: dict[str, str] = {}
        self.lost_codes: set[int] = set()
        self.size = path.stat().st_size if growing(path) is None else 0
        self._form = guess_form(path, read_head(path), spec.form_of(path))
        self.form: dict[str, Any] = asdict(self._form)
        self.marks = self._form.marks
        self._said = self._form.header
        self._block_bytes = block_bytes or _BLOCK_BYTES
        own_names, body, self._header, self._above = self._start(next(self._blocks(), None))
        if len(own_names) * _BLOCK_BYTES_PER_COLUMN > _BLOCK_BYTES:
            self._block_bytes = min(len(own_names) * _BLOCK_BYTES_PER_COLUMN, _MOST_BLOCK_BYTES)
        self.own_names = own_names
        self.names = column_names(spec.called(path, own_names))
        self._body = body
        self._below: list[Dropped] = []
        everywhere = spec.no_values(path) or MISSING_TEXTS
        own = spec.no_values_in(path, self.names)
        self._no_values = [own.get(place, everywhere) for place in range(len(self.names))]

    def _blocks(self) -> Iterator[Block]:
        held = held_blocks(self.path)
        if held is not None:
            return iter(held)
        return read_blocks(self.path, self._form, self._block_bytes, _BLOCK_BYTES if self._grows else 0)

    @property
    def reading_form(self) -> Form:
        """The form it is read in."""
        return self._form

    @property
    def raw_header(self) -> tuple[bytes, ...]:
        """The rows of its header as they stand; where they stand again they are dropped."""
        return self._header

    @property
    def outside(self) -> list[Dropped]:
        """What stands above its rows, and once it was gone through, below them."""
        return [*self._above, *self._below]

    @property
    def blocks_ahead(self) -> int:
        """How many blocks are read ahead of whoever takes them; of very wide files few, for the memory they take."""
        return max(1, min(2 * block_threads(), _MOST_BYTES_AHEAD // self._block_bytes))

    def no_values(self) -> list[tuple[str, ...]]:
        """Return, for each column, the texts that mean a missing value."""
        return self._no_values

    def _start(self, block: Block | None) -> tuple[list[str], Block, tuple[bytes, ...], list[Dropped]]:
        """Take what stands above the data off the first block: names, the rest, the raw header, the lines above it."""
        nothing = SourceError(
            f"{self.path} holds only blank lines", mend=Mend("check that it was written to the end")
        )  # fmt: skip
        if block is None or not block.data.strip():
            raise nothing
        form = self._form
        start, above = self._skipped(block.data)
        rest = block.without_start(start)
        header, body_start, comments = self._header_rows(rest)
        above += comments
        if not header:
            raise nothing
        rows = [next(records(row.decode("utf-8", "replace"), form.delimiter, form.quote), [""]) for row in header]
        if form.header == 0:
            return column_names([""] * (form.width or len(rows[0]))), rest.without_start(body_start), (), above
        width = form.width or max(map(len, rows))
        padded = [row[:width] + [""] * (width - len(row)) for row in rows]
        return column_names(joined_names(padded)), rest.without_start(body_start), tuple(header), above

    def _skipped(self, data: bytes) -> tuple[int, list[Dropped]]:
        """Return where the lines end that are to be skipped, and what stands in them."""
        start = 0
        above: list[Dropped] = []
        for line in range(1, self._form.skip + 1):
            end = data.find(b"\n", start) + 1 or len(data)
            text = data[start:end].rstrip(b"\r\n").decode("utf-8", "replace")
            if text.strip(self._form.delimiter + " "):
                above.append(Dropped(ABOVE, line, text))
            start = end
        return start, above

    def _header_rows(self, rest: Block) -> tuple[list[bytes], int, list[Dropped]]:
        """Return the raw header rows (or the first row of all where there is none), where the body begins, comments."""
        form = self._form
        header: list[bytes] = []
        comments: list[Dropped] = []
        body_start = 0
        starts, ends = rest.row_bounds()
        for row_start, row_end in zip(starts.tolist(), ends.tolist(), strict=True):
            row = rest.data[row_start:row_end].rstrip(b"\r")
            comment = form.comment and row.lstrip().startswith(form.comment.encode())
            if comment:
                line = rest.first_line + rest.data.count(b"\n", 0, row_start)
                comments.append(Dropped(COMMENT, line, row.decode("utf-8", "replace")))
            if row.strip(form.delimiter.encode() + b" ") and not comment:
                if len(header) == max(1, form.header):
                    break
                header.append(row)
                if form.header == 0:
                    break
            body_start = min(row_end + 1, len(rest.data))
            if form.header and len(header) == form.header:
                break
        return header, body_start, comments

    def kinds(self) -> list[Kind | None]:
        """Guess from rows at the beginning and, for a large file, at four places further down."""
        width = len(self.names)
        most = max(20, min(_SAMPLE_ROWS, _SAMPLE_CELLS // max(1, width)))
        text = self._body.data[: 1 << 20].decode("utf-8", "replace")
        sample = list(islice(self._records(text), most))
        if len(self._body.data) > 1 << 20:
            sample = sample[:-1]
        if self.size > 4 * _BLOCK_BYTES and self._form.encoding.startswith("utf-8") and not is_compressed(self.path):
            for quarter in range(1, 5):
                with open(self.path, "rb") as file:
                    file.seek(self.size * quarter // 5)
                    text = file.read(1 << 17).decode("utf-8", "replace")
                sample += list(islice(self._records(text), most // 4))[1:-1]
        rows = [record for record in sample if len(record) == width]
        self.lost_codes = lost_codes(rows, self._no_values)
        return [
            guess_kind((None if row[place] in self._no_values[place] else row[place] for row in rows), self.marks)
            for place in range(width)
        ]

    def _records(self, text: str) -> Iterator[list[str]]:
        comment = self._form.comment
        for record in records(text, self._form.delimiter, self._form.quote):
            if not (comment and record[0].startswith(comment)):
                yield record

    def body_blocks(self) -> Iterator[Block]:
        """Yield the blocks below the header, the last one without totals and notes; it is never a small one."""
        blocks = self._blocks()
        _, held, _, _ = self._start(next(blocks, None))
        for block in blocks:
            if len(block.data) < min(_LEAST_LAST_BYTES, self._block_bytes // 2):
                held = joined(held, block)
            else:
                if held.data:
                    yield held
                held = block
        last, self._below = without_footers(held, self._form, self._header, len(self.names))
        if last.data:
            yield last

    def blocks(self, tasks: Tasks, token: CancelToken) -> Iterator[ParsedBlock]:
        """Parse blocks on threads, a few ahead, and yield them in the file's order."""
        width = len(self.names)
        if self._above:
            yield ParsedBlock(0, [], 0, self._above)
        parse = lambda block: partial(parse_block, block, self._form, width, tasks(), self._header)  # noqa: E731
        with ThreadPoolExecutor(block_threads(), thread_name_prefix="parse") as pool:
            yield from in_turn(map(parse, self.body_blocks()), pool, token, self.blocks_ahead)
        if self._below:
            yield ParsedBlock(0, [], self.size, self._below)


def delimited_files(path: Path, spec: SourceSpec, token: CancelToken) -> list[DelimitedFile]:
    """Open a file as the table it is. Raises ``SourceError``."""
    return [DelimitedFile(path, spec, block_bytes=FIRST_BLOCK_BYTES if isinstance(token, EnoughRows) else 0)]
