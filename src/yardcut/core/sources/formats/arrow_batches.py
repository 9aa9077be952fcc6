"""What Parquet and Arrow files share: record batches of typed columns."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.form import column_names
from yardcut.core.sources.formats.source_file import Tasks
from yardcut.core.sources.formats.typed import flat_batch, kind_of, typed_chunk
from yardcut.core.sources.parsing import ColumnChunk, ColumnTask, ParsedBlock
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

BATCH_ROWS = 1 << 17


class BatchFile:
    """A file of record batches in groups; a subclass opens it and says its schema, the groups' rows and the batches."""

    what = ""

    def __init__(self, path: Path, spec: SourceSpec) -> None:
        import pyarrow as pa

        self.path = path
        self.label = path.name
        self.number = 0
        self.marks = "."
        self.form: dict[str, Any] = {"format": self.what}
        try:
            schema, self.group_rows = self._look()
        except (pa.ArrowInvalid, pa.ArrowNotImplementedError, OSError) as error:
            raise self._damaged(error) from error
        self.size = sum(self.group_rows)
        empty = pa.RecordBatch.from_pylist([], schema=schema)
        written, arrays = flat_batch(empty)
        self._kinds: list[Kind | None] = [kind_of(array.type) for array in arrays]
        self.names = column_names(spec.called(path, column_names([str(name) for name in written])))
        self._written = written
        self._roots = frozenset(schema.names)

    def _look(self) -> tuple[Any, list[int]]:
        raise NotImplementedError

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        raise NotImplementedError

    def _group(self, number: int, root: str, rows: int) -> Any:
        """Return the first rows of one group as a batch of one root column."""
        raise NotImplementedError

    def _root(self, place: int) -> str:
        """Return the column of the file that a column belongs to; a name may hold a point of its own."""
        return next(name for name in _prefixes(self._written[place]) if name in self._roots)

    def group_chunk(self, task: ColumnTask, number: int, rows: int) -> ColumnChunk:
        """Read the first rows of one column of one group. Raises ``SourceError``."""
        import pyarrow as pa

        written = self._written[task.number]
        try:
            names, arrays = flat_batch(self._group(number, self._root(task.number), rows))
        except (pa.ArrowInvalid, OSError) as error:
            raise self._damaged(error) from error
        return typed_chunk(task, arrays[names.index(written)], self.marks)

    def _damaged(self, error: Exception) -> SourceError:
        if isinstance(error, OSError) and error.errno is not None:
            return SourceError(f"{self.path} cannot be read: {error.strerror}")
        return SourceError(
            f"{self.path} is not a whole {self.what} file: {str(error).splitlines()[0]}",
            mend=Mend("fetch or write it again"),
        )

    def kinds(self) -> list[Kind | None]:
        """Return the kinds of the columns' own types."""
        return self._kinds

    def no_values(self) -> list[tuple[str, ...]]:
        """Texts mean themselves: these formats have missing values of their own."""
        return [MISSING_TEXTS] * len(self.names)

    def blocks(self, tasks: Tasks, token: CancelToken) -> Iterator[ParsedBlock]:
        """Yield the file's record batches."""
        import pyarrow as pa

        done = 0
        roots = list(dict.fromkeys(self._root(task.number) for task in tasks()))
        wanted = roots if len(roots) < len(self._roots) else []
        try:
            for batch in self._batches(wanted):
                token.check()
                names, arrays = flat_batch(batch)
                place = {name: number for number, name in enumerate(names)}
                chunks = [typed_chunk(task, arrays[place[self._written[task.number]]], self.marks) for task in tasks()]
                done += batch.num_rows
                yield ParsedBlock(batch.num_rows, chunks, done)
        except (pa.ArrowInvalid, OSError) as error:
            if isinstance(error, OSError) and error.errno is not None:
                raise
            raise self._damaged(error) from error


def _prefixes(name: str) -> Iterator[str]:
    """Yield a dotted name and what is left of it when its parts go one by one from the end."""
    while True:
        yield name
        if "." not in name:
            return
        name = name.rsplit(".", 1)[0]
