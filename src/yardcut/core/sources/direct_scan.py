"""Going over columns group by group in their own files, without storing them: for a first answer, soon."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np

from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnChunk, ColumnTask
from yardcut.core.sources.formats.arrow_batches import BatchFile
from yardcut.core.sources.store.builders import numeric_parts, plain_parts
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import FlatVector, missing_vector
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.unread import GroupRange, NotAsDeclaredError
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, PlainVector, Vector
from yardcut.core.values.kinds import Kind


class DirectScan:
    """The groups of a source's files, numbered on through all of them."""

    def __init__(
        self, files: Sequence[BatchFile], places: Sequence[dict[str, int]], columns: Sequence[ColumnInfo],
        check: Callable[[], None],
    ) -> None:  # fmt: skip
        self._check = check
        self._files, self._places, self._columns = files, places, columns
        self._groups = [(at, group) for at, file in enumerate(files) for group in range(len(file.group_rows))]
        sizes = [files[at].group_rows[group] for at, group in self._groups]
        self._starts = np.concatenate(([0], np.cumsum(sizes, dtype=np.int64))).tolist()

    def end(self) -> None:
        """Raise ``SourceError`` when the files are no longer those that were opened."""
        self._check()

    def groups(self) -> list[tuple[int, int]]:
        """Return the first row of each group, and the row behind its last."""
        return list(zip(self._starts[:-1], self._starts[1:], strict=True))

    def group_at(self, first_row: int) -> int:
        """Return the number of the group with rows that begins at a row."""
        return bisect_right(self._starts, first_row) - 1

    def ranges(self, numbers: Sequence[int], group: int) -> dict[int, GroupRange]:
        """Return the least and the largest value of those columns of a group for which the file says so."""
        at, own = self._groups[group]
        found: dict[int, GroupRange] = {}
        for number in numbers:
            column = self._columns[number]
            place = self._places[at].get(column.name)
            said = None if place is None else self._files[at].range_of(place, own)
            if said is not None and column.kind in (Kind.INTEGER, Kind.DATE):
                found[number] = said
        return found

    def vectors(
        self, numbers: Sequence[int], group: int, token: CancelToken
    ) -> Iterator[tuple[int, int, dict[int, Vector]]]:
        """Yield (first row, row behind the last, the columns by number) for a group, some rows at a time.

        Raises ``SourceError``, ``StoppedError``, ``NotAsDeclaredError``.
        """
        at, own = self._groups[group]
        first = self._starts[group]
        for rows, chunks in self._files[at].group_blocks(self._tasks(numbers, at), own, token):
            yield first, first + rows, self._vectors(numbers, at, rows, chunks)
            first += rows

    def vectors_around(
        self, numbers: Sequence[int], group: int, wanted: Array, token: CancelToken
    ) -> Iterator[tuple[int, int, dict[int, Vector]]]:
        """Yield (first row, row behind the last, the columns by number) for pieces of a group that hold some rows.

        ``wanted`` are their ids (int64, sorted). Raises ``SourceError``, ``StoppedError``, ``NotAsDeclaredError``.
        """
        at, own = self._groups[group]
        start, tasks = self._starts[group], self._tasks(numbers, at)
        if not tasks:
            rows = self._starts[group + 1] - start
            yield start, start + rows, self._vectors(numbers, at, rows, [])
            return
        for first, end, chunks in self._files[at].group_places(tasks, own, wanted - start, token):
            yield start + first, start + end, self._vectors(numbers, at, end - first, chunks)

    def _tasks(self, numbers: Sequence[int], at: int) -> list[ColumnTask]:
        """Return what is read of those columns that a file has."""
        places, columns = self._places[at], [self._columns[number] for number in numbers]
        return [ColumnTask(places[each.name], each.kind, coded=True) for each in columns if each.name in places]

    def _vectors(self, numbers: Sequence[int], at: int, rows: int, chunks: Sequence[ColumnChunk]) -> dict[int, Vector]:
        """Return chunks as vectors, and for columns that the file lacks rows without a value."""
        if any(chunk.unfit for chunk in chunks):
            raise NotAsDeclaredError
        found: dict[int, Vector] = {}
        read = iter(chunks)
        for number in numbers:
            column = self._columns[number]
            if column.name not in self._places[at]:
                found[number] = missing_vector(column.kind, rows)
                continue
            chunk = next(read)
            found[number] = _texts_of(chunk.texts) if chunk.texts is not None else vector_of(column, chunk)
        return found


def _texts_of(texts: Any) -> CodedVector | PlainVector:
    """Return texts as the file keeps them: as codes, or one by one."""
    import pyarrow as pa

    if not pa.types.is_dictionary(texts.type):
        offsets, data, valid = plain_parts(texts)
        return PlainVector(offsets, data, None if valid is None else ~valid)
    codes, valid = numeric_parts(texts.indices)
    codes = codes.astype(np.int64 if codes.dtype.itemsize == 8 else np.result_type(codes, np.int8), copy=False)
    if valid is not None:
        codes = np.where(valid, codes, -1)
    words = texts.dictionary.to_pylist()
    if None in words:
        codes = np.where(np.array([word is None for word in words] + [True])[codes], -1, codes)
    return CodedVector(codes, Dictionary([word or "" for word in words]))


def vector_of(column: ColumnInfo, chunk: ColumnChunk) -> FlatVector:
    """Return what was read of a column as a vector."""
    kind = column.kind
    if kind is Kind.TEXT:
        assert chunk.plain is not None
        offsets, data, valid = chunk.plain
        return PlainVector(offsets, data, None if valid is None else ~valid)
    assert chunk.values is not None
    gone = None if chunk.valid is None or kind is Kind.NUMBER else ~chunk.valid
    return NumericVector(kind, chunk.values, gone, zone=column.zone)
