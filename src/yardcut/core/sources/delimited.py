"""Reading a delimited file into a store: once through, kinds from the whole file, nothing lost silently."""

from __future__ import annotations

import os
from collections import Counter, deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass, field
from itertools import chain, islice
from pathlib import Path

import numpy as np

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.blocks import Block, read_blocks
from yardcut.core.sources.builders import NumericBuilder, SetAside, TextBuilder
from yardcut.core.sources.form import column_names, guess_form, read_head, records
from yardcut.core.sources.guessing import (
    MOST_SET_ASIDE_TEXTS,
    NeverNumericError,
    convert,
    guess_kind,
    guess_kind_counted,
    may_set_aside,
)
from yardcut.core.sources.parsing import ColumnChunk, ColumnTask, ParsedBlock, convert_chunk, parse_block
from yardcut.core.table.column import ColumnInfo
from yardcut.core.table.table import TableInfo
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.values.missing import MISSING_TEXTS

THREADS = min(4, os.cpu_count() or 1)
_BLOCK_BYTES = 1 << 21
_BLOCK_BYTES_PER_COLUMN = 1 << 13
_MOST_BLOCK_BYTES = 1 << 26
_SAMPLE_ROWS = 600
_SAMPLE_CELLS = 100_000


@dataclass(slots=True)
class _ColumnState:
    """One column while it is read: its kind so far, and whether it must be read again as another."""

    number: int
    kind: Kind | None
    builder: NumericBuilder | TextBuilder | None = None
    set_aside: SetAside = field(default_factory=SetAside)
    present: int = 0
    pending_missing: int = 0
    again: Kind | None = None

    def task(self) -> ColumnTask:
        coded = isinstance(self.builder, TextBuilder) and self.builder.coded
        return ColumnTask(self.number, self.again or self.kind, coded)


class DelimitedReader:
    """Reads one delimited file into a folder of column files."""

    def __init__(self, path: Path, folder: Path, token: CancelToken, progress: Progress) -> None:
        self._path = path
        self._folder = folder
        self._token = token
        self._progress = progress
        head = read_head(path)
        self._form = guess_form(path, head)
        self._names: list[str] = []
        self._rows = 0
        self._blank_rows = 0
        self._unfit_rows = 0

    def read(self, fingerprint: str) -> TableInfo:
        """Read the whole file. Raises ``SourceError``, ``StoppedError``, or ``OSError`` when the disk is full."""
        size_bytes = self._path.stat().st_size
        self._progress.begin("reading", size_bytes)
        states = self._read_pass(None)
        infos: dict[int, ColumnInfo] = {}
        again = {state.number: self._settled_kind(state) for state in states}
        for state in states:
            if again[state.number] is state.kind:
                infos[state.number] = self._finish(state)
        wanted = {number: kind for number, kind in again.items() if number not in infos}
        while wanted:
            self._progress.begin(f"reading {len(wanted)} columns again", size_bytes)
            retried, wanted = self._read_pass(wanted), {}
            for state in retried:
                if state.again is None:
                    infos[state.number] = self._finish(state)
                else:
                    wanted[state.number] = Kind.TEXT
        columns = tuple(infos[number] for number in range(len(self._names)))
        return TableInfo(
            str(self._path), fingerprint, self._rows, columns, asdict(self._form), self._blank_rows, self._unfit_rows
        )

    # one pass

    def _read_pass(self, kinds: dict[int, Kind] | None) -> list[_ColumnState]:
        first = kinds is None
        blocks = read_blocks(self._path, self._form, _BLOCK_BYTES)
        header_block = next(blocks, None)
        if header_block is None:
            raise SourceError(f"{self._path} holds only blank lines")
        names, body = self._split_header(header_block)
        if len(names) * _BLOCK_BYTES_PER_COLUMN > _BLOCK_BYTES:
            size = min(len(names) * _BLOCK_BYTES_PER_COLUMN, _MOST_BLOCK_BYTES)
            blocks = read_blocks(self._path, self._form, size)
            names, body = self._split_header(next(blocks))
        if first:
            self._names = names
            kinds_seen = self._guess_kinds(body)
            states = [_ColumnState(number, kind) for number, kind in enumerate(kinds_seen)]
        else:
            assert kinds is not None
            states = [_ColumnState(number, kind) for number, kind in kinds.items()]
            for state in states:
                for stale in self._folder.glob(f"{state.number}.*"):
                    stale.unlink()
        by_number = {state.number: state for state in states}
        rows = 0
        for parsed in self._parsed(chain([body] if body.data else [], blocks), states):
            for chunk in parsed.chunks:
                self._consume(by_number[chunk.task.number], chunk, rows, parsed.rows)
            rows += parsed.rows
            if first:
                self._blank_rows += max(0, parsed.blank_rows)
                self._unfit_rows += len(parsed.unfit_rows)
            self._progress.done = parsed.bytes_read
        if not first and rows != self._rows:
            raise changed_while_read(self._path)
        self._rows = rows
        return states

    def _parsed(self, blocks: Iterator[Block], states: list[_ColumnState]) -> Iterator[ParsedBlock]:
        """Parse blocks on threads, a few ahead, and yield them in the file's order."""
        width = len(self._names)
        waiting: deque[Future[ParsedBlock]] = deque()
        with ThreadPoolExecutor(THREADS, thread_name_prefix="parse") as pool:
            try:
                for block in blocks:
                    self._token.check()
                    tasks = [state.task() for state in states if state.again is not Kind.TEXT]
                    waiting.append(pool.submit(parse_block, block, self._form, width, tasks))
                    if len(waiting) > 2 * THREADS + 1:
                        yield waiting.popleft().result()
                while waiting:
                    self._token.check()
                    yield waiting.popleft().result()
            finally:
                for future in waiting:
                    future.cancel()

    def _split_header(self, block: Block) -> tuple[list[str], Block]:
        """Take the header off the first block; blank lines above it are passed over."""
        data = block.data
        start = len(data) - len(data.lstrip(b"\r\n"))
        ends = block.row_ends()
        ends = ends[ends >= start]
        end = int(ends[0]) + 1 if len(ends) else len(data)
        header = next(records(data[start:end].decode("utf-8", "replace"), self._form.delimiter), None)
        if header is None:
            raise SourceError(f"{self._path} holds only blank lines", mend=Mend("check that it was written to the end"))
        return column_names(header), block.without_start(end)

    # kinds

    def _guess_kinds(self, body: Block) -> list[Kind | None]:
        """Guess from rows at the beginning and, for a large file, at four places further down."""
        width = len(self._names)
        most = max(20, min(_SAMPLE_ROWS, _SAMPLE_CELLS // max(1, width)))
        text = body.data[: 1 << 20].decode("utf-8", "replace")
        sample = list(islice(records(text, self._form.delimiter), most))
        if len(body.data) > 1 << 20:
            sample = sample[:-1]
        size_bytes = self._path.stat().st_size
        if size_bytes > 4 * _BLOCK_BYTES and self._form.encoding.startswith("utf-8"):
            for quarter in range(1, 5):
                with open(self._path, "rb") as file:
                    file.seek(size_bytes * quarter // 5)
                    text = file.read(1 << 17).decode("utf-8", "replace")
                inner = list(islice(records(text, self._form.delimiter), most // 4))
                sample += inner[1:-1]
        rows = [record for record in sample if len(record) == width]
        missing = set(MISSING_TEXTS)
        return [
            guess_kind((None if row[number] in missing else row[number] for row in rows), self._form.decimal)
            for number in range(width)
        ]

    def _consume(self, state: _ColumnState, chunk: ColumnChunk, first_row: int, rows: int) -> None:
        if state.again is not None:
            self._check_only(state, chunk)
            return
        if chunk.task.kind is None and chunk.texts is not None:
            if chunk.texts.null_count == rows and state.builder is None:
                state.pending_missing += rows
                return
            if state.kind is None:
                state.kind = guess_kind(chunk.texts.to_pylist(), self._form.decimal) or Kind.TEXT
            if state.kind is not Kind.TEXT:
                texts, chunk.texts = chunk.texts.to_pylist(), None
                convert_chunk(chunk, texts, state.kind, self._form)
        if chunk.wider is not None:
            state.again = chunk.wider
            return
        if state.builder is None:
            assert state.kind is not None
            state.builder = (
                TextBuilder(self._folder, state.number)
                if state.kind is Kind.TEXT
                else NumericBuilder(self._folder, state.number, state.kind)
            )
            if state.pending_missing:
                state.builder.append_missing(state.pending_missing)
        if isinstance(state.builder, TextBuilder):
            if chunk.plain is not None and not state.builder.coded:
                state.builder.append_plain(*chunk.plain)
            else:
                state.builder.append(chunk.texts)
            return
        assert chunk.values is not None
        state.builder.append(chunk.values, chunk.valid)
        state.present += rows if chunk.valid is None else int(chunk.valid.sum())
        if chunk.unfit:
            state.set_aside.add(first_row, chunk.unfit)
            if len(state.set_aside.counted()) > MOST_SET_ASIDE_TEXTS:
                state.again = Kind.TEXT

    def _check_only(self, state: _ColumnState, chunk: ColumnChunk) -> None:
        """Go on looking at a column that must be read again, so that the second time is the last."""
        if state.again is Kind.NUMBER and chunk.task.kind is Kind.NUMBER:
            if chunk.wider is not None:
                state.again = Kind.TEXT
                return
            state.set_aside.add(0, chunk.unfit)
            if chunk.values is not None:
                state.present += len(chunk.values) if chunk.valid is None else int(chunk.valid.sum())
        elif state.again is Kind.NUMBER and chunk.wider is Kind.TEXT:
            state.again = Kind.TEXT

    def _settled_kind(self, state: _ColumnState) -> Kind:
        """Return the kind a column takes now that the whole file is known."""
        if state.again is Kind.TEXT:
            return Kind.TEXT
        kind = state.again or state.kind
        if kind is None:
            state.kind = Kind.TEXT
            state.builder = TextBuilder(self._folder, state.number)
            state.builder.append_missing(state.pending_missing)
            return Kind.TEXT
        if kind is Kind.TEXT:
            return self._narrower(state)
        aside = state.set_aside
        unfit_texts = len(aside.counted())
        if not may_set_aside(len(aside.rows), unfit_texts, state.present + len(aside.rows)):
            return Kind.TEXT
        return kind

    def _narrower(self, state: _ColumnState) -> Kind:
        """Give a text column whose few texts all turn out to be values of a kind that kind, without reading again."""
        builder = state.builder
        if not isinstance(builder, TextBuilder) or not builder.coded or not builder.words:
            return Kind.TEXT
        words = list(builder.words)
        codes = builder.codes()
        times = np.bincount(codes[codes >= 0], minlength=len(words)).tolist()
        kind = guess_kind_counted(Counter(dict(zip(words, times, strict=True))), self._form.decimal) or Kind.TEXT
        if kind is Kind.TEXT:
            return kind
        try:
            read = convert(words, kind, self._form.decimal)
        except NeverNumericError:
            return Kind.TEXT
        if any(not word.strip() for word in words):
            return Kind.TEXT
        unfit = dict(read.unfit)
        empty = float("nan") if kind is Kind.NUMBER else 0
        values = np.array([*(empty if value is None else value for value in read.values), empty], STORAGE_DTYPE[kind])
        is_value = np.array([*(value is not None for value in read.values), False])
        narrow = NumericBuilder(self._folder, state.number, kind)
        for start in range(0, len(codes), 1 << 18):
            some = codes[start : start + (1 << 18)]
            narrow.append(values[some], is_value[some])
            for code in unfit:
                rows = np.flatnonzero(some == code).tolist()
                state.set_aside.add(start, [(row, unfit[code]) for row in rows])
        builder.drop()
        state.kind, state.builder = kind, narrow
        return kind

    def _finish(self, state: _ColumnState) -> ColumnInfo:
        builder = state.builder
        if builder is None:
            builder = TextBuilder(self._folder, state.number)
            builder.append_missing(self._rows)
        state.set_aside.write(self._folder / f"{state.number}.aside")
        return builder.finish(self._names[state.number], state.set_aside)


def changed_while_read(path: Path) -> SourceError:
    """Return the error for a file that did not hold still."""
    return SourceError(f"{path} changed while it was read", mend=Mend("open it again when it is written to the end"))
