"""The texts of cells as they stand in the source, for the columns of a slice that nobody computed.

They are read again from the files, those of the wanted rows only, into a folder that goes when the slice is written:
kept on disk, they take no memory, and can be taken in any order. A slice whose columns are just the source's is written
of whole rows, which need not be taken apart.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Any

import numpy as np

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.language.save_options import DECIMAL, DELIMITER, LINE_ENDS, QUOTE, SAVE_OPTIONS, SaveOption
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.block_index import BlockPlace, read_block_index
from yardcut.core.sources.formats.delimited import DelimitedFile
from yardcut.core.sources.some_columns import NotReadError
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.cache import is_content_of, reading_failed
from yardcut.core.sources.store.own_folders import TEXTS, own_folder, stores_folder
from yardcut.core.sources.store.store_parts import StoreParts
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.held_bytes import HeldBytes
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import PlainVector, gather_plain
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.formats.delimited import OwnTexts
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.texts.reading_again import Apart, WantedRows, columns_apart, read_apart
from yardcut.core.writers.texts.rows_again import RowsAgain
from yardcut.core.writers.texts.standing_rows import StandingRows
from yardcut.core.writers.texts.stretches import Part, Stretch, UnevenRowsError, cut_out, parts_of

_MOST_HELD_BYTES = 272 << 20


@dataclass(frozen=True, slots=True)
class Found:
    """The texts, or why values are written in their shortest exact form instead ("": nothing is lost by that)."""

    texts: OwnTexts | None = None
    why_not: str = ""


class SourceTexts:
    """Texts of some columns of a slice, by their places in it, read again into arrays on disk."""

    def __init__(self, vectors: dict[int, PlainVector], rows: RowsAgain) -> None:
        self._vectors, self._rows = vectors, rows

    @property
    def places(self) -> frozenset[int]:
        """The places of the columns in the slice."""
        return frozenset(self._vectors)

    def vectors(self, row_ids: Array) -> dict[int, PlainVector]:
        """Return the texts of some rows, by the places of their columns; on any thread."""
        at = self._rows.places(row_ids)
        if len(at) and int(at[-1] - at[0]) == len(at) - 1 and bool((np.diff(at) == 1).all()):
            first, end = int(at[0]), int(at[-1]) + 2
            return {place: PlainVector(each.offsets[first:end], each.data) for place, each in self._vectors.items()}
        return {place: gather_plain(each, at) for place, each in self._vectors.items()}


class RowsAsTheyStand:
    """Whole rows in the source's own order: each goes from the source to the target, and is kept nowhere."""

    def __init__(self, again: _Again) -> None:
        self._again = again

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes]:
        """Yield the rows of the slice, a line feed behind each. Raises ``SourceError`` when the source is another."""
        again = self._again
        progress.begin("writing rows as they stand", sum(file.size for file in again.files))
        rows = WantedRows(piece.rows, token, progress)
        for place, file in enumerate(again.files):
            for found in rows.of_file(file, again.blocks(place), has_drops=again.has_drops(place)):
                yield found.data
        if not again.are_the_same(rows.rows):
            raise SourceError(
                f"{again.spec.label} changed while its rows were written: they are not all of one file",
                mend=Mend("cut it again, once it is written to its end"),
            )


def columns_with_own_texts(piece: Frame) -> dict[int, int]:
    """Return the places in a slice of columns whose cells may be written otherwise in the source, with their numbers.

    Texts are what they are, but for those that mean no value.
    """
    found = {}
    for place, column in enumerate(piece.columns):
        if isinstance(column.value, ColumnValue):
            stored = piece.table.columns[column.value.column]
            if stored.info.kind is not Kind.TEXT or stored.info.missing or not stored.is_loaded:
                found[place] = column.value.column
    return found


def are_read_again(piece: Frame, plan: Plan) -> bool:
    """Tell whether cells of a slice are written as they stand in its source, which is read again for that."""
    if not plan.format.delimiter or not piece.table.leads_to_source:
        return False
    return any("delimiter" in file.form for file in piece.table.info.files) and bool(columns_with_own_texts(piece))


def stand_at_known_places(table: Table) -> bool:
    """Tell whether some rows of a table can be read again without reading all of its files."""
    return read_block_index(table.folder, [info.rows for info in table.info.files]) is not None


@contextmanager
def own_texts(
    piece: Frame, spec: SourceSpec, plan: Plan, token: CancelToken, progress: Progress, *, at_once: bool
) -> Iterator[Found]:
    """Give the texts that cells of a slice have in their source, as long as the block lasts.

    With ``at_once`` all of the slice is written once, in its order, so that nothing need be kept where that is the
    source's own. Raises ``SourceError``, when the disk is full too, ``StoppedError``, and ``NotReadError`` where values
    would have to be written of columns that were left unread.
    """
    with _found(piece, spec, plan, token, progress, at_once=at_once) as found:
        _check_read(piece, found.texts)
        yield found


def _check_read(piece: Frame, own: OwnTexts | None) -> None:
    """Raise ``NotReadError`` where a slice has columns that were left unread, and are not written as they stand."""
    if not piece.table.source.leaves_unread or not piece.rows.count:
        return
    stands = frozenset() if own is None or own.cells is None else own.cells.places
    for place, column in enumerate(piece.columns):
        is_own = isinstance(column.value, ColumnValue) and own is not None and (own.rows is not None or place in stands)
        if not is_own and not all(piece.table.columns[number].is_loaded for number in columns_of(column.value)):
            raise NotReadError


@contextmanager
def _found(
    piece: Frame, spec: SourceSpec, plan: Plan, token: CancelToken, progress: Progress, *, at_once: bool
) -> Iterator[Found]:
    columns = columns_with_own_texts(piece) if plan.format.delimiter and piece.table.leads_to_source else {}
    forms = [file.form for file in piece.table.info.files]
    if not piece.rows.count or not any("delimiter" in form for form in forms):
        columns = {}
    if columns and plan.options[DECIMAL] not in (None, forms[0].get("decimal")):
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
            stand = all(_may_stand(file, piece, plan) for file in again.files)
            parts = parts_of(piece)
            is_whole = parts == [Stretch(0, len(piece.table.columns))]
            if stand and is_whole and at_once and piece.rows.order is None and piece.table is piece.table.source:
                found = Found(OwnTexts(rows=RowsAsTheyStand(again)))
            else:
                folder = own_folder(stores_folder(), TEXTS)
                stack.callback(litter.drop, folder)
                reading = _Reading(piece, again, folder, token, progress)
                rows = reading.standing(parts, plan) if stand else None
                found = Found(OwnTexts(reading.columns(columns)) if rows is None else OwnTexts(rows=rows))
        except _ChangedError:
            found = Found(None, "the source is another by now: values are in their shortest exact form")
        except OSError as error:  # the disk of the folder for these texts, not that of the slice
            raise reading_failed(error, spec.label, stores_folder()) from error
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
        from yardcut.core.sources.formats.format_of_files import open_files

        try:
            if not is_content_of(table.fingerprint, spec.paths()):
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
        return rows == self.table.rows and is_content_of(self.table.fingerprint, self.spec.paths())


@dataclass(frozen=True, slots=True)
class _Reading:
    """Reads the wanted rows of a table's files again, into arrays in a folder."""

    piece: Frame
    again: _Again
    folder: Path
    token: CancelToken
    progress: Progress

    def columns(self, columns: dict[int, int]) -> SourceTexts:
        """Read the texts of columns, by their places in the slice and their numbers. Raises ``_ChangedError``."""
        numbers = list(dict.fromkeys(columns.values()))
        names = [self.again.table.columns[number].name for number in numbers]
        vectors = dict(zip(numbers, self._texts(columns_apart(self.again.spec, names), len(names)), strict=True))
        return SourceTexts({place: vectors[number] for place, number in columns.items()}, self._places())

    def standing(self, parts: list[Part], plan: Plan) -> StandingRows | None:
        """Read what stands beside each other of each row. Raises ``_ChangedError``.

        ``None`` where rows are not cut into cells by their marks alone.
        """
        stretches = list(dict.fromkeys(part for part in parts if isinstance(part, Stretch)))
        width = len(self.again.table.columns)
        apart = lambda rows, file: cut_out(rows, file.reading_form, width, stretches)  # noqa: E731
        try:
            texts = self._texts(apart, len(stretches), _MOST_HELD_BYTES // len(stretches))
        except UnevenRowsError:
            return None
        return StandingRows(parts, dict(zip(stretches, texts, strict=True)), self._places(), plan)

    def _places(self) -> RowsAgain:
        return RowsAgain(_rows_of_source(self.piece), self.piece.table)

    def _texts(self, apart: Apart, count: int, most_held: int = 0) -> list[PlainVector]:
        again, parts = self.again, StoreParts(self.folder)
        written = [
            (HeldBytes(parts.writer(number, "data", "|u1"), most_held), parts.writer(number, "offsets", "<i8"))
            for number in range(count)
        ]
        for _, offsets in written:
            offsets.append(np.zeros(1, np.int64))
        self.progress.begin("reading cells as they stand", sum(file.size for file in again.files))
        rows = WantedRows(_rows_of_source(self.piece), self.token, self.progress)
        for place, file in enumerate(again.files):
            read_apart(rows, file, again.blocks(place), apart, written, has_drops=again.has_drops(place))
        if not again.are_the_same(rows.rows):
            raise _ChangedError
        return [PlainVector(offsets.items(), data.items()) for data, offsets in written]


def _rows_of_source(piece: Frame) -> RowSet:
    """Return the rows of a slice as rows of the source, one drawn several times once."""
    table = piece.table
    if table is table.source:
        return piece.rows
    return RowSet(
        table.source.rows, bit.of_ids(table.source_ids(piece.rows.ids(0, piece.rows.count)), table.source.rows)
    )


def _may_stand(file: DelimitedFile, piece: Frame, plan: Plan) -> bool:
    """Tell whether a file has just the columns of its table, and a slice is written in the form the file has."""
    options, form = plan.options, file.reading_form
    of_file: dict[SaveOption[Any], tuple[str | None, ...]] = {
        DELIMITER: (form.delimiter,), QUOTE: (form.quote, None) if form.quote == '"' else (form.quote,),
        DECIMAL: (form.decimal, None), LINE_ENDS: ("lf", None),
    }  # fmt: skip
    same_form = not form.ragged and all(
        options[option] in of_file.get(option, (option.usual,))
        for option in SAVE_OPTIONS.values()
        if option.changes_texts
    )
    return same_form and file.names == [column.name for column in piece.table.columns]
