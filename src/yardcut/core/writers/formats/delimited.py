"""Writing delimited text: quotes only where they are needed (RFC 4180), or as the options say."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import Protocol

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.in_turn import in_turn
from yardcut.core.language.meaning.bound import ColumnValue, ShownColumn
from yardcut.core.language.save_options import DELIMITER, ENCODING, HEADER, MISSING, QUOTE
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.threads import block_threads
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import PlainVector, Vector
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.formats.compressing import BytesTarget, TextTarget, open_text
from yardcut.core.writers.formats.delimited_text import BlockWriter
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.texts.cell_texts import CellWriter


class CellTexts(Protocol):
    """Texts of cells as they stand in the source, for the columns of a slice that nobody computed."""

    @property
    def places(self) -> frozenset[int]:
        """The places of those columns in the slice."""

    def vectors(self, row_ids: Array) -> Mapping[int, PlainVector]:
        """Return the texts of some rows, by the places of their columns; on any thread."""


class WholeRows(Protocol):
    """The rows of a slice that is made of whole rows of the source."""

    def whole_rows(self, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes]:
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
    encoding = plan.options[ENCODING] or "utf-8"
    with open_text(path, plan.compression, encoding) as file:
        try:
            write_stream(piece, file, plan, token, progress, own)
        except UnicodeEncodeError as error:
            raise _no_such_character(error, encoding) from None


def _no_such_character(error: UnicodeEncodeError, encoding: str) -> TargetError:
    return TargetError(
        f"{encoding} has no character {error.object[error.start]!r}", mend=Mend("write utf-8, or leave its column out")
    )


def _write_whole_rows(rows: Iterator[bytes], file: TextTarget) -> None:
    for data in rows:
        if isinstance(file, BytesTarget) and file.is_utf8:
            file.write_bytes(data)
        else:
            file.write(str(data, "utf-8", "replace"))


def write_stream(
    piece: Frame, file: TextTarget, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None = None
) -> None:
    """Write a slice; a missing value is an empty cell or what the options say, a set-aside one keeps its text."""
    writing = CellWriter(plan)
    ending = writing.ending
    if plan.options[HEADER]:
        file.write(writing.delimiter.join(writing.cell(column.name, Kind.TEXT) for column in piece.columns) + ending)
    if not piece.rows.count:
        return
    if own is not None and own.rows is not None:
        _write_whole_rows(own.rows.whole_rows(piece, token, progress), file)
        return
    cells = own.cells if own is not None else None
    places = cells.places if cells is not None else frozenset()
    worked_out = [column for place, column in enumerate(piece.columns) if place not in places]
    aside = [_set_aside(piece, column) for column in piece.columns]
    nothing = writing.delimiter * (len(piece.columns) - 1)
    is_plain = not any(kept for place, kept in enumerate(aside) if place not in places)
    quick = writing.blocks() if isinstance(file, BytesTarget) and file.is_utf8 and is_plain else None
    windows = piece.windows(worked_out, token, progress, rows_at_once(len(piece.columns), _ROWS_AT_ONCE))
    with ThreadPoolExecutor(block_threads(), thread_name_prefix="write") as pool:
        calls = (partial(_block, quick, piece, window, cells, plan) for window in windows)
        for window, vectors, lines in in_turn(calls, pool, token, 2 * block_threads()):
            if lines is not None and isinstance(file, BytesTarget):
                file.write_bytes(lines)
                continue
            columns = []
            for place, (column, vector) in enumerate(zip(piece.columns, vectors, strict=True)):
                if place in places and isinstance(vector, PlainVector):
                    texts = [text or "" for text in vector.texts()]
                    columns.append(writing.own_cells(texts, column.kind, _gone(plan, column, window, aside[place])))
                else:
                    columns.append(writing.cells(vector))
            _put_aside(columns, [{} if place in places else kept for place, kept in enumerate(aside)], window, writing)
            rows: Iterator[str] = map(writing.delimiter.join, zip(*columns, strict=True))
            if columns and "" in columns[0]:  # a line of separators alone would be no row at all
                rows = (writing.empty + row if row == nothing else row for row in rows)
            file.write(ending.join(rows) + ending)


def _block(
    quick: BlockWriter | None, piece: Frame, window: Scatter, cells: CellTexts | None, plan: Plan
) -> tuple[Scatter, list[Vector], bytes | None]:
    """Return a block's columns, and its lines; ``None`` where these are to be written cell by cell."""
    own = cells.vectors(window.row_ids) if cells is not None else {}
    vectors: list[Vector] = [
        own[place] if place in own else evaluate(column.value, window) for place, column in enumerate(piece.columns)
    ]
    lines = quick.block(vectors) if quick is not None else None
    nothing = (plan.options[DELIMITER] or ",").encode() * (len(vectors) - 1) + b"\n"
    if lines is not None and (lines.startswith(nothing) or b"\n" + nothing in lines):
        lines = None  # a line of separators alone would be no row at all
    return window, vectors, lines


_ROWS_AT_ONCE = 1 << 14


def _gone(plan: Plan, column: ShownColumn, window: Scatter, kept: dict[int, str]) -> list[bool] | None:
    """Tell which cells hold no value, where an option says what stands for it; a set-aside value is one."""
    if plan.options[MISSING] is None:
        return None
    mask = evaluate(column.value, window).missing_mask()
    if mask is None:
        return None
    return [bool(no) and row not in kept for no, row in zip(mask, _in_source(window), strict=True)]


def _in_source(window: Scatter) -> list[int]:
    ids: list[int] = window.table.source_ids(window.row_ids).tolist()
    return ids


def _put_aside(columns: Sequence[list[str]], aside: Sequence[dict[int, str]], window: Scatter, by: CellWriter) -> None:
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
    from yardcut.core.sources.delimited_blocks import counting_rows
    from yardcut.core.sources.form.delimited_form import Form

    options = plan.options
    encoding = (options[ENCODING] or "utf-8").lower().replace("_", "-")
    form = Form(options[DELIMITER] or ",", encoding=encoding, quote=options[QUOTE] or '"')
    return counting_rows.count_rows(path, form) - int(options[HEADER])
