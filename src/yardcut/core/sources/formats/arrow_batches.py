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
from yardcut.core.sources.parsing import ParsedBlock
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

BATCH_ROWS = 1 << 17


class BatchFile:
    """A file of record batches; a subclass opens it and says its schema, rows and batches."""

    what = ""

    def __init__(self, path: Path, spec: SourceSpec) -> None:
        import pyarrow as pa

        self.path = path
        self.label = path.name
        self.number = 0
        self.marks = "."
        self.form: dict[str, Any] = {"format": self.what}
        try:
            schema, self.size = self._look()
        except (pa.ArrowInvalid, pa.ArrowNotImplementedError, OSError) as error:
            raise self._damaged(error) from error
        empty = pa.RecordBatch.from_pylist([], schema=schema)
        written, arrays = flat_batch(empty)
        self._kinds: list[Kind | None] = [kind_of(array.type) for array in arrays]
        self.names = column_names(spec.called(path, column_names([str(name) for name in written])))
        self._written = written

    def _look(self) -> tuple[Any, int]:
        raise NotImplementedError

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        raise NotImplementedError

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
        roots = list(dict.fromkeys(self._written[task.number].split(".")[0] for task in tasks()))
        wanted = roots if len(roots) < len(self._written) and not any("." in name for name in self._written) else []
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
