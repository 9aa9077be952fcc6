"""What formats of records share: rows of Python values, read as texts and given kinds as any other text."""

from __future__ import annotations

from collections.abc import Generator, Iterator, Sequence
from contextlib import closing
from itertools import islice
from pathlib import Path
from typing import Any

from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.dropped import Dropped
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnChunk, ColumnTask, ParsedBlock, convert_chunk
from yardcut.core.sources.form.delimited_form import column_names
from yardcut.core.sources.formats.source_file import Tasks
from yardcut.core.sources.kinds.doubts import lost_codes
from yardcut.core.sources.kinds.guessing_kinds import guess_kind
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.builders import plain_parts
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

BATCH_ROWS = 1 << 14
_SAMPLE_ROWS = 1000

Row = Sequence[str | None]
Batch = tuple[list[Row], int, list[Dropped]]
"""Rows of texts, how far reading has come, and what was dropped among them."""


class RecordsFile:
    """A file of records; a subclass yields its batches."""

    def __init__(self, path: Path, spec: SourceSpec, label: str, written: list[str], form: dict[str, Any]) -> None:
        self.path = path
        self.label = label
        self.number = 0
        self.zones: dict[str, str] = {}
        self.lost_codes: set[int] = set()
        self.marks = "."
        self.form = form
        self.size = 1
        self.names = column_names(spec.called(path, column_names(written)))
        everywhere = spec.no_values(path) or MISSING_TEXTS
        own = spec.no_values_in(path, self.names)
        self._no_values = [own.get(place, everywhere) for place in range(len(self.names))]

    def batches(self) -> Generator[Batch, None, None]:
        """Yield the rows from first to last."""
        raise NotImplementedError

    def kinds(self) -> list[Kind | None]:
        """Guess from the first rows."""
        with closing(self.batches()) as batches:
            rows = list(islice((row for batch in batches for row in batch[0]), _SAMPLE_ROWS))
        self.lost_codes = lost_codes(rows, self._no_values)
        return [
            guess_kind((_present(row[place], self._no_values[place]) for row in rows), self.marks)
            for place in range(len(self.names))
        ]

    def no_values(self) -> list[tuple[str, ...]]:
        """Return, for each column, the texts that mean a missing value."""
        return self._no_values

    def blocks(self, tasks: Tasks, token: CancelToken) -> Iterator[ParsedBlock]:
        """Yield the file's rows."""
        with closing(self.batches()) as batches:
            for rows, done, dropped in batches:
                token.check()
                chunks = [self._chunk(task, [row[task.number] for row in rows]) for task in tasks()] if rows else []
                yield ParsedBlock(len(rows), chunks, done, dropped)

    def _chunk(self, task: ColumnTask, texts: list[str | None]) -> ColumnChunk:
        import pyarrow as pa

        missing = frozenset(task.no_values)
        texts = [None if text is None or text in missing else text for text in texts]
        chunk = ColumnChunk(task)
        if task.kind is None or task.kind is Kind.TEXT:
            chunk.texts = pa.array(texts, pa.string())
            if task.kind is Kind.TEXT and not task.coded:
                chunk.plain = plain_parts(chunk.texts)
            return chunk
        convert_chunk(chunk, texts, task.kind, self.marks)
        return chunk


def _present(text: str | None, no_values: tuple[str, ...]) -> str | None:
    return None if text in no_values else text
