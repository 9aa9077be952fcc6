"""The texts of cells as they stand in the source, for the columns of a slice that nobody computed.

They are read again from the files, those of the wanted rows only, into a folder that goes when the slice is written:
kept on disk, they take no memory, and can be taken in any order. A slice whose columns are just the source's is written
of whole rows, which need not be taken apart.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass

import numpy as np

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.bound import ColumnValue
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.block_index import BlockPlace, read_block_index
from yardcut.core.sources.cache import TEXTS, own_folder, source_mark, stores_folder
from yardcut.core.sources.formats.delimited import THREADS, DelimitedFile
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store_parts import StoreParts
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array, ArrayWriter
from yardcut.core.table.held_bytes import HeldBytes
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import PlainVector, gather_plain
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.delimited import OwnTexts
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.reading_again import TextsAgain, WantedRows, Writers

_MOST_RANKED_ROWS = 1 << 25
_MOST_HELD_BYTES = 320 << 20
_GATHERED_ROWS = 1 << 14


@dataclass(frozen=True, slots=True)
class Found:
    """The texts, or why values are written in their shortest exact form instead ("": nothing is lost by that)."""

    texts: OwnTexts | None = None
    why_not: str = ""


class _Places:
    """Where the rows of a slice stand among those of the source that were read again, which are in its order."""

    def __init__(self, rows: RowSet, table: Table) -> None:
        self._table = table
        self._ids: Array | None = None
        self._rank: Array | None = None
        self._asked: Array | None = None
        self._answer: tuple[Array, bool] = (np.zeros(0, dtype=np.int64), False)
        if rows.bits is None:
            return
        ids = RowSet(rows.table_rows, rows.bits).ids(0, rows.count)
        if rows.order is None or rows.table_rows > _MOST_RANKED_ROWS:
            self._ids = ids
        else:  # four bytes a row of the table, and a tenth of the time
            self._rank = np.empty(rows.table_rows, dtype=np.uint32)
            self._rank[ids] = np.arange(len(ids), dtype=np.uint32)

    def of(self, row_ids: Array) -> tuple[Array, bool]:
        """Return the places of some rows (int64), and whether they are one behind the other.

        One column after the other asks for the same rows.
        """
        if self._asked is not row_ids:
            at = self.looked_up(row_ids)
            is_run = bool(len(at)) and int(at[-1] - at[0]) == len(at) - 1 and bool((np.diff(at) == 1).all())
            self._asked, self._answer = row_ids, (at, is_run)
        return self._answer

    def looked_up(self, row_ids: Array) -> Array:
        """Return the places of some rows (int64); on any thread."""
        ids = self._table.source_ids(row_ids)
        if self._rank is not None:
            ids = self._rank[ids]
        elif self._ids is not None:
            return np.searchsorted(self._ids, ids)
        return ids.astype(np.int64)


class SourceTexts:
    """Texts of some columns of a slice, by their places in it, read again into arrays on disk."""

    def __init__(self, vectors: dict[int, PlainVector], rows: RowSet, table: Table) -> None:
        self._vectors, self._at = vectors, _Places(rows, table)

    @property
    def places(self) -> frozenset[int]:
        """The places of the columns in the slice."""
        return frozenset(self._vectors)

    def texts(self, place: int, row_ids: Array) -> list[str]:
        """Return the texts of some rows."""
        return self.vector(place, row_ids).texts()  # type: ignore[return-value] # each row has a text

    def vector(self, place: int, row_ids: Array) -> PlainVector:
        """Return the texts of some rows as bytes."""
        (at, is_run), vector = self._at.of(row_ids), self._vectors[place]
        if is_run:
            first = int(at[0])
            return PlainVector(vector.offsets[first : first + len(at) + 1], vector.data)
        return gather_plain(vector, at)


class SourceRows:
    """Whole rows, read again into an array: they can be taken in any order."""

    def __init__(self, vector: PlainVector, rows: RowSet, table: Table) -> None:
        self._vector, self._at = vector, _Places(rows, table)

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes | memoryview]:
        """Yield the rows of a slice, a line feed behind each; those of the next windows are gathered on threads."""
        waiting: deque[Future[memoryview]] = deque()
        with ThreadPoolExecutor(THREADS, thread_name_prefix="gather") as pool:
            try:
                for window in piece.windows((), token, progress, _GATHERED_ROWS):
                    waiting.append(pool.submit(self._rows, window.row_ids))
                    if len(waiting) > 2 * THREADS:
                        yield waiting.popleft().result()
                while waiting:
                    yield waiting.popleft().result()
            finally:
                for future in waiting:
                    future.cancel()

    def _rows(self, row_ids: Array) -> memoryview:
        rows = gather_plain(self._vector, self._at.looked_up(row_ids)).data
        return rows.data


class RowsAsTheyStand:
    """Whole rows in the source's own order: each goes from the source to the target, and is kept nowhere."""

    def __init__(self, again: _Again) -> None:
        self._again = again

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes | memoryview]:
        """Yield the rows of the slice, a line feed behind each. Raises ``SourceError`` when the source is another."""
        again = self._again
        progress.begin("writing rows as they stand", sum(file.size for file in again.files))
        rows = WantedRows(piece.rows, token, progress)
        for place, file in enumerate(again.files):
            for found in rows.of_file(file, again.blocks(place), has_drops=again.has_drops(place)):
                yield found.data
        if not again.are_the_same(rows.rows):
            raise SourceError(
                f"{again.spec.label} changed while its rows were written, and nothing was kept",
                mend=Mend("read it again, then save"),
            )


def columns_with_own_texts(piece: Frame) -> dict[int, int]:
    """Return the places in a slice of columns whose cells may be written otherwise in the source, with their numbers.

    Texts are what they are, but for those that mean no value.
    """
    found = {}
    for place, column in enumerate(piece.columns):
        if isinstance(column.value, ColumnValue):
            info = piece.table.columns[column.value.column].info
            if info.kind is not Kind.TEXT or info.missing:
                found[place] = column.value.column
    return found


@contextmanager
def own_texts(
    piece: Frame, spec: SourceSpec, plan: Plan, token: CancelToken, progress: Progress, *, at_once: bool
) -> Iterator[Found]:
    """Give the texts that cells of a slice have in their source, as long as the block lasts.

    With ``at_once`` all of the slice is written once, in its order, so that nothing need be kept where that is the
    source's own. Raises ``SourceError``, ``StoppedError``, or ``OSError`` when the disk is full.
    """
    columns = columns_with_own_texts(piece) if plan.format.delimiter else {}
    forms = [file.form for file in piece.table.info.files]
    if not piece.rows.count or not any("delimiter" in form for form in forms):
        columns = {}
    if columns and plan.options.decimal not in (None, forms[0].get("decimal")):
        kinds = [column.kind for column in piece.columns]  # the option says how numbers are written
        columns = {place: number for place, number in columns.items() if not kinds[place].is_numeric}
    if not columns:
        yield Found()
        return
    if len({(form.get("decimal"), form.get("thousands")) for form in forms}) > 1:
        yield Found(None, "the source's files write numbers in several ways: values are in their shortest exact form")
        return
    with ExitStack() as stack:
        try:
            again = _Again.open(spec, piece.table.source, token)
            are_whole = all(_is_whole(piece, file, plan) for file in again.files)
            if are_whole and at_once and piece.rows.order is None and piece.table is piece.table.source:
                found = Found(OwnTexts(rows=RowsAsTheyStand(again)))
            else:
                folder = own_folder(stores_folder(), TEXTS)
                stack.callback(litter.drop, folder)
                found = Found(_read(piece, columns, again, are_whole, StoreParts(folder), token, progress))
        except _ChangedError:
            found = Found(None, "the source is another by now: values are in their shortest exact form")
        yield found


class _ChangedError(Exception):
    """The files are not those any more that the table was read from."""


@dataclass(frozen=True, slots=True)
class _Again:
    """The files of a table, opened to be read once more."""

    spec: SourceSpec
    table: Table
    files: list[DelimitedFile]
    index: list[list[BlockPlace]] | None

    @classmethod
    def open(cls, spec: SourceSpec, table: Table, token: CancelToken) -> _Again:
        """Open them. Raises ``_ChangedError`` and ``StoppedError``."""
        from yardcut.core.sources.formats.choosing import open_files

        try:
            if source_mark(spec, spec.paths()) != table.fingerprint:
                raise _ChangedError
            opened, _ = open_files(spec.paths(), spec, token)
        except SourceError:
            raise _ChangedError from None
        files = [file for file in opened if isinstance(file, DelimitedFile)]
        if len(files) != len(opened) or len(files) != len(table.info.files):
            raise _ChangedError
        return cls(spec, table, files, read_block_index(table.folder, [info.rows for info in table.info.files]))

    def blocks(self, place: int) -> list[BlockPlace] | None:
        """Return where the blocks of a file stand, where that is known."""
        return None if self.index is None else self.index[place]

    def has_drops(self, place: int) -> bool:
        """Tell whether rows of a file were dropped."""
        return bool(self.table.info.files[place].dropped)

    def are_the_same(self, rows: int) -> bool:
        """Tell whether files of which ``rows`` rows were met are still those of the table."""
        return rows == self.table.rows and source_mark(self.spec, self.spec.paths()) == self.table.fingerprint


def _read(
    piece: Frame, columns: dict[int, int], again: _Again, are_whole: bool, parts: StoreParts,
    token: CancelToken, progress: Progress,
) -> OwnTexts:  # fmt: skip
    numbers = [0] if are_whole else list(dict.fromkeys(columns.values()))
    written: dict[int, Writers] = {
        number: (parts.writer(number, "data", "|u1"), parts.writer(number, "offsets", "<i8")) for number in numbers
    }
    if are_whole:
        written[0] = HeldBytes(parts.writer(0, "data", "|u1"), _MOST_HELD_BYTES), written[0][1]
    for _, offsets in written.values():
        offsets.append(np.zeros(1, np.int64))
    progress.begin("reading cells as they stand", sum(file.size for file in again.files))
    wanted = _rows_of_source(piece)
    rows = WantedRows(wanted, token, progress)
    reading = TextsAgain(again.spec, again.table, rows, written, are_whole)
    for place, file in enumerate(again.files):
        reading.file(file, again.blocks(place), has_drops=again.has_drops(place))
    if not again.are_the_same(rows.rows):
        raise _ChangedError
    vectors = {number: _vector(*pair) for number, pair in written.items()}
    if are_whole:
        return OwnTexts(rows=SourceRows(vectors[0], wanted, piece.table))
    return OwnTexts(SourceTexts({place: vectors[number] for place, number in columns.items()}, wanted, piece.table))


def _rows_of_source(piece: Frame) -> RowSet:
    """Return the rows of a slice as rows of the source, one drawn several times once."""
    table = piece.table
    if table is table.source:
        return piece.rows
    return RowSet(
        table.source.rows, bit.of_ids(table.source_ids(piece.rows.ids(0, piece.rows.count)), table.source.rows)
    )


def _vector(data: ArrayWriter | HeldBytes, offsets: ArrayWriter) -> PlainVector:
    return PlainVector(offsets.items(), data.items())


def _is_whole(piece: Frame, file: DelimitedFile, plan: Plan) -> bool:
    """Tell whether a slice has just the columns of a file, and is written in the form the file has."""
    options, form = plan.options, file.reading_form
    marks = (options.delimiter, options.quote or '"', options.quoting, options.line_ends)
    as_they_are = marks == (form.delimiter, form.quote, "needed", "lf") and not form.ragged
    same_form = (
        as_they_are and options.decimal in (None, form.decimal) and options.missing is None and not options.guard
    )
    numbers = [column.value.column if isinstance(column.value, ColumnValue) else -1 for column in piece.columns]
    names = [column.name for column in piece.table.columns]
    return same_form and numbers == list(range(len(names))) and file.names == names
