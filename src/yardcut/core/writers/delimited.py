"""Writing delimited text: quotes only where they are needed (RFC 4180), or as the options say."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.expressions.values import evaluate
from yardcut.core.language.bound import ColumnValue, ShownColumn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.set_aside import read_set_aside
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.compressing import BytesTarget, TextTarget, open_text
from yardcut.core.writers.delimited_blocks import BlockWriter
from yardcut.core.writers.formulas import RUNS_AS_FORMULA
from yardcut.core.writers.number_texts import number_texts
from yardcut.core.writers.plans import Plan


class CellTexts(Protocol):
    """Texts of cells as they stand in the source, for the columns of a slice that nobody computed."""

    @property
    def places(self) -> frozenset[int]:
        """The places of those columns in the slice."""

    def texts(self, place: int, row_ids: Array) -> list[str]:
        """Return the texts of some rows."""

    def vector(self, place: int, row_ids: Array) -> PlainVector:
        """Return the texts of some rows as bytes."""


class WholeRows(Protocol):
    """The rows of a slice that is made of whole rows of the source."""

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes | memoryview]:
        """Yield them as UTF-8, a line feed behind each, in pieces of any size."""


@dataclass(frozen=True, slots=True)
class OwnTexts:
    """What of a slice leaves as it came: whole rows, or the cells of some columns."""

    cells: CellTexts | None = None
    rows: WholeRows | None = None


def write_delimited(
    piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None = None
) -> None:
    """Write a slice to a file. Raises ``OSError`` and ``TargetError``."""
    encoding = plan.options.encoding or "utf-8"
    with open_text(path, plan.compression, encoding) as file:
        try:
            write_stream(piece, file, plan, token, progress, own)
        except UnicodeEncodeError as error:
            raise _no_such_character(error, encoding) from None


def _no_such_character(error: UnicodeEncodeError, encoding: str) -> TargetError:
    return TargetError(
        f"{encoding} has no character {error.object[error.start]!r}", mend=Mend("write utf-8, or leave its column out")
    )


def write_stream(
    piece: Frame, file: TextTarget, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None = None
) -> None:
    """Write a slice; a missing value is an empty cell or what the options say, a set-aside one keeps its text."""
    writing = _Writing(plan)
    ending = writing.ending
    if plan.options.header:
        file.write(writing.delimiter.join(writing.cell(column.name, Kind.TEXT) for column in piece.columns) + ending)
    if own is not None and own.rows is not None:
        for data in own.rows.whole_rows(piece, token, progress):
            if isinstance(file, BytesTarget) and file.is_utf8:
                file.write_bytes(data)
            else:
                file.write(str(data, "utf-8", "replace"))
        return
    cells = own.cells if own is not None else None
    places = cells.places if cells is not None else frozenset()
    worked_out = [column for place, column in enumerate(piece.columns) if place not in places]
    aside = [_set_aside(piece, column) for column in piece.columns]
    nothing = writing.delimiter * (len(piece.columns) - 1)
    is_plain = not any(kept for place, kept in enumerate(aside) if place not in places)
    quick = writing.blocks() if isinstance(file, BytesTarget) and file.is_utf8 and is_plain else None
    for window in piece.windows(worked_out, token, progress):
        if quick is not None and isinstance(file, BytesTarget):
            lines = _quick_block(quick, piece, window, cells, places, plan)
            if lines is not None:
                file.write_bytes(lines)
                continue
        columns = []
        for place, column in enumerate(piece.columns):
            if cells is not None and place in places:
                texts = cells.texts(place, window.row_ids)
                columns.append(writing.own_cells(texts, column.kind, _gone(plan, column, window, aside[place])))
            else:
                columns.append(writing.cells(evaluate(column.value, window)))
        _put_aside(columns, [{} if place in places else kept for place, kept in enumerate(aside)], window, writing)
        rows: Iterator[str] = map(writing.delimiter.join, zip(*columns, strict=True))
        if columns and "" in columns[0]:  # a line of separators alone would be no row at all
            rows = ('""' + row if row == nothing else row for row in rows)
        file.write(ending.join(rows) + ending)


def _quick_block(
    quick: BlockWriter, piece: Frame, window: Scatter, cells: CellTexts | None, places: frozenset[int], plan: Plan
) -> bytes | None:
    """Return a block's lines; ``None`` where it is to be written cell by cell."""
    vectors = [
        cells.vector(place, window.row_ids) if cells is not None and place in places else evaluate(column.value, window)
        for place, column in enumerate(piece.columns)
    ]
    lines = quick.block(vectors)
    nothing = (plan.options.delimiter or ",").encode() * (len(vectors) - 1)
    if lines is None or lines.startswith(nothing + b"\n") or b"\n" + nothing + b"\n" in lines:
        return None  # a line of separators alone would be no row at all
    return lines


class _Writing:
    """How cells become text."""

    def __init__(self, plan: Plan) -> None:
        options = plan.options
        self.delimiter = options.delimiter or ","
        self.ending = "\r\n" if options.line_ends == "crlf" else "\n"
        self._quote = options.quote or '"'
        self._needs_quotes = re.compile(f"[{re.escape(self._quote)}\r\n{re.escape(self.delimiter)}]")
        self._missing = options.missing or ""
        self._decimal = options.decimal or "."
        self._guard = options.guard
        self._quoting = options.quoting

    def blocks(self) -> BlockWriter | None:
        """Return what writes whole blocks at once, where the options allow it."""
        plain = not self._guard and self._quoting == "needed" and not self._missing and self._decimal == "."
        if plain and self.ending == "\n" and self.delimiter in _SEPARATORS:
            return BlockWriter(self.delimiter, self._quote, self.cell)
        return None

    def cell(self, text: str, kind: Kind) -> str:
        """Write one cell that has a value."""
        if self._guard and kind is Kind.TEXT and text.startswith(RUNS_AS_FORMULA):
            text = "'" + text
        wants = self._quoting == "all" or (self._quoting == "texts" and kind is Kind.TEXT)
        if wants or self._needs_quotes.search(text):
            return f"{self._quote}{text.replace(self._quote, self._quote * 2)}{self._quote}"
        return text

    def _written(self, texts: list[str], kind: Kind) -> list[str]:
        """Write cells that have values: most often as they are, which one look at all of them tells."""
        if self._quoting == "all" or (kind is Kind.TEXT and (self._guard or self._quoting == "texts")):
            return [self.cell(text, kind) for text in texts]
        marks, whole = (self.delimiter, self._quote, "\r", "\n"), "".join(texts)
        if not any(mark in whole for mark in marks):
            return texts
        return [self.cell(text, kind) if any(mark in text for mark in marks) else text for text in texts]

    def own_cells(self, texts: list[str], kind: Kind, gone: list[bool] | None) -> list[str]:
        """Write the cells of a column as they stand in the source, those without a value as the options say."""
        cells = self._written(texts, kind)
        if gone is None:
            return cells
        return [self._missing if no else cell for cell, no in zip(cells, gone, strict=True)]

    def cells(self, vector: Vector) -> list[str]:
        """Write the cells of a column."""
        if isinstance(vector, CodedVector):
            words = [*(self.cell(text, vector.kind) for text in vector.dictionary.texts), self._missing]
            return list(map(words.__getitem__, vector.codes.tolist()))
        texts = number_texts(vector) if isinstance(vector, NumericVector) else vector.texts()
        if vector.kind is Kind.NUMBER and self._decimal != ".":
            texts = [None if text is None else text.replace(".", self._decimal) for text in texts]
        if vector.missing_mask() is None:
            return self._written(texts, vector.kind)  # type: ignore[arg-type] # none is missing
        cells = self._written(["" if text is None else text for text in texts], vector.kind)
        return [self._missing if text is None else cell for text, cell in zip(texts, cells, strict=True)]


_SEPARATORS = frozenset(",;\t|")
"""What stands in no number and no day."""


def _gone(plan: Plan, column: ShownColumn, window: Scatter, kept: dict[int, str]) -> list[bool] | None:
    """Tell which cells hold no value, where an option says what stands for it; a set-aside value is one."""
    if plan.options.missing is None:
        return None
    mask = evaluate(column.value, window).missing_mask()
    if mask is None:
        return None
    return [bool(no) and row not in kept for no, row in zip(mask, _in_source(window), strict=True)]


def _in_source(window: Scatter) -> list[int]:
    ids: list[int] = window.table.source_ids(window.row_ids).tolist()
    return ids


def _put_aside(columns: Sequence[list[str]], aside: Sequence[dict[int, str]], window: Scatter, by: _Writing) -> None:
    """Put the texts of values that did not fit their column's kind in the places of no value."""
    for cells, kept in zip(columns, aside, strict=True):
        if kept:
            for place, row_id in enumerate(_in_source(window)):
                if row_id in kept:
                    cells[place] = by.cell(kept[row_id], Kind.TEXT)


def _set_aside(piece: Frame, column: ShownColumn) -> dict[int, str]:
    """Return the texts of values that did not fit their column's kind, by row; a computed column has none."""
    value = column.value
    if not isinstance(value, ColumnValue) or not piece.table.columns[value.column].info.set_aside:
        return {}
    return {each.row: each.text for each in read_set_aside(piece.table.folder, value.column)}


def count_rows(path: Path, plan: Plan) -> int:
    """Read a delimited file back and count its rows, the header apart."""
    from yardcut.core.sources import counting_rows
    from yardcut.core.sources.form import Form

    options = plan.options
    encoding = (options.encoding or "utf-8").lower().replace("_", "-")
    form = Form(options.delimiter or ",", encoding=encoding, quote=options.quote or '"')
    return counting_rows.count_rows(path, form) - int(options.header)
