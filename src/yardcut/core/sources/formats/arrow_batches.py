"""What Parquet and Arrow files share: record batches of typed columns."""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnChunk, ColumnTask, ParsedBlock
from yardcut.core.sources.form.delimited_form import column_names
from yardcut.core.sources.formats.source_file import Tasks
from yardcut.core.sources.formats.typed import flat_column, kind_of, typed_chunk
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.array_file import Array
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

BATCH_ROWS = 1 << 17
_NUMBER_DIGITS = 15
WINDOW_ROWS = 1 << 12
_PIECE_ROWS = 1 << 12
"""The rows that are read where a page of cells is wanted."""


def _damages() -> tuple[type[Exception], ...]:
    """Return what a damaged file can raise."""
    import pyarrow as pa

    return (pa.lib.ArrowException, OSError, ValueError, StopIteration)


def ahead(items: Iterator[Any]) -> Iterator[Any]:
    """Yield what an iterator gives; the next is fetched in a thread while one is worked on."""
    nothing = object()
    with ThreadPoolExecutor(1, thread_name_prefix="decode") as pool:
        coming = pool.submit(next, items, nothing)
        try:
            while (item := coming.result()) is not nothing:
                coming = pool.submit(next, items, nothing)
                yield item
        finally:
            if not coming.cancel():
                coming.exception()  # it goes on with what another thread would close
            close = getattr(items, "close", None)
            if close is not None:
                close()


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
            self._roots: list[str] = list(schema.names)
            leaves = [flat_column(field.name, pa.array([], field.type)) for field in schema]
        except _damages() as error:
            raise self._damaged(error) from error
        self.size = sum(self.group_rows)
        self._leaves = [(root, leaf) for root, (names, _) in enumerate(leaves) for leaf in range(len(names))]
        self._kinds: list[Kind | None] = [kind_of(array.type) for _, arrays in leaves for array in arrays]
        written = [str(name) for names, _ in leaves for name in names]
        self.names = column_names(spec.called(path, column_names(written)))
        types = [array.type for _, arrays in leaves for array in arrays]
        self.lost_codes: set[int] = set()
        self.notes = [
            f"{name}: decimals of {each.precision} digits are read as the nearest number, which holds {_NUMBER_DIGITS}"
            for name, each in zip(self.names, types, strict=True)
            if pa.types.is_decimal(each) and each.precision > _NUMBER_DIGITS
        ]
        self.zones = {
            name: each.tz for name, each in zip(self.names, types, strict=True) if kind_of(each) is Kind.INSTANT
        }

    def _look(self) -> tuple[Any, list[int]]:
        raise NotImplementedError

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        raise NotImplementedError

    def _group(self, group: int, roots: list[str]) -> Iterator[Any]:
        """Yield a group, numbered from 0, as batches of some root columns."""
        raise NotImplementedError

    def range_of(self, place: int, group: int) -> tuple[int, int] | None:
        """Return the least and the largest whole number or day of a column of a group of which every row has one.

        ``None`` where the file does not say so.
        """
        return None

    def group_blocks(
        self, tasks: list[ColumnTask], group: int, token: CancelToken
    ) -> Iterator[tuple[int, list[ColumnChunk]]]:
        """Yield (rows, columns) of one group, some rows at a time. Raises ``SourceError``, ``StoppedError``."""
        wanted, done = self.group_rows[group], 0
        if not tasks:
            yield wanted, []
            return
        roots = list(dict.fromkeys(self._roots[self._leaves[task.number][0]] for task in tasks))
        try:
            for batch in self._group(group, roots):
                token.check()
                opened: dict[int, list[Any]] = {}
                done += batch.num_rows
                yield (
                    batch.num_rows,
                    [typed_chunk(task, self._leaf(batch, task.number, opened), self.marks) for task in tasks],
                )
            if done != wanted:
                raise ValueError(f"group {group + 1} does not hold the {wanted:,} rows it should")
        except _damages() as error:
            raise self._damaged(error) from error

    def group_places(
        self, tasks: list[ColumnTask], group: int, places: Array, token: CancelToken
    ) -> Iterator[tuple[int, int, list[ColumnChunk]]]:
        """Yield (first, behind the last, columns) of pieces of one group that hold some places (int64, sorted) in it.

        What lies between is decoded and not looked at; behind the last place nothing is read.
        Raises ``SourceError``, ``StoppedError``.
        """
        roots = list(dict.fromkeys(self._roots[self._leaves[task.number][0]] for task in tasks))
        done = 0
        try:
            for batch in self._group(group, roots):
                token.check()
                inside = places[(places >= done) & (places < done + batch.num_rows)] - done
                for some in np.split(inside, np.flatnonzero(np.diff(inside) > _PIECE_ROWS) + 1):
                    if len(some):
                        first, end, opened = int(some[0]), int(some[-1]) + 1, dict[int, list[Any]]()
                        piece = batch.slice(first, end - first)
                        chunks = [
                            typed_chunk(task, self._leaf(piece, task.number, opened), self.marks) for task in tasks
                        ]
                        yield done + first, done + end, chunks
                done += batch.num_rows
                if done > places[-1]:
                    return
            raise ValueError(f"group {group + 1} does not hold the {self.group_rows[group]:,} rows it should")
        except _damages() as error:
            raise self._damaged(error) from error

    def _window(self, group: int, roots: list[str], number: int) -> Any:
        """Return a window of a group, numbered from 0, as a batch of some root columns."""
        raise NotImplementedError

    def window(self, tasks: list[ColumnTask], group: int, number: int) -> list[ColumnChunk]:
        """Read ``WINDOW_ROWS`` rows of some columns of one group (fewer at its end). Raises ``SourceError``."""
        roots = list(dict.fromkeys(self._roots[self._leaves[task.number][0]] for task in tasks))
        wanted = min(WINDOW_ROWS, self.group_rows[group] - number * WINDOW_ROWS)
        opened: dict[int, list[Any]] = {}
        try:
            batch = self._window(group, roots, number)
            if batch.num_rows != wanted:
                raise ValueError(f"group {group + 1} does not hold the {self.group_rows[group]:,} rows it should")
            return [typed_chunk(task, self._leaf(batch, task.number, opened), self.marks) for task in tasks]
        except _damages() as error:
            raise self._damaged(error) from error

    def _leaf(self, batch: Any, place: int, opened: dict[int, list[Any]]) -> Any:
        """Return a column of a batch, which may hold some of the roots only; ``opened`` keeps those taken apart."""
        root, leaf = self._leaves[place]
        if root not in opened:
            name = self._roots[root]
            occurrence = self._roots[:root].count(name)  # names may repeat
            column = batch.column(batch.schema.get_all_field_indices(name)[occurrence])
            column.validate(full=True)  # neither format finds every damage itself, and reading on could end the process
            opened[root] = flat_column(name, column)[1]
        return opened[root][leaf]

    def _damaged(self, error: Exception) -> SourceError:
        if isinstance(error, OSError) and error.errno is not None:
            return SourceError(f"{self.path} cannot be read: {error.strerror}")
        cause = (str(error).splitlines() or ["a part is missing"])[0]
        return SourceError(
            f"{self.path} is not a whole {self.what} file: {cause}",
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
        done = 0
        roots = list(dict.fromkeys(self._roots[self._leaves[task.number][0]] for task in tasks()))
        wanted = roots if len(roots) < len(self._roots) else []
        if not roots:  # none of the columns wanted is in this file: its rows are known without a look
            yield ParsedBlock(self.size, [], self.size)
            return
        try:
            for batch in ahead(self._batches(wanted)):
                token.check()
                opened: dict[int, list[Any]] = {}
                chunks = [typed_chunk(task, self._leaf(batch, task.number, opened), self.marks) for task in tasks()]
                done += batch.num_rows
                yield ParsedBlock(batch.num_rows, chunks, done)
            if done != self.size:
                raise ValueError(f"it holds {done:,} rows instead of {self.size:,}")
        except _damages() as error:
            if isinstance(error, OSError) and error.errno is not None:
                raise
            raise self._damaged(error) from error
