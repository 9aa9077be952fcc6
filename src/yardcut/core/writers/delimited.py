"""Writing delimited text: values in their shortest exact form, quotes only where they are needed (RFC 4180)."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import IO

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.bound import ColumnValue, ShownColumn
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.set_aside import read_set_aside
from yardcut.core.table.vectors import CodedVector, Vector
from yardcut.core.values.kinds import Kind


def write_delimited(piece: Frame, path: Path, delimiter: str, token: CancelToken, progress: Progress) -> None:
    """Write a slice with a header to a file. Raises ``OSError``."""
    with open(path, "w", encoding="utf-8", newline="") as file:
        write_stream(piece, file, delimiter, token, progress)


def write_stream(piece: Frame, file: IO[str], delimiter: str, token: CancelToken, progress: Progress) -> None:
    """Write a slice with a header; a missing value is an empty cell, a value that was set aside keeps its text."""
    needs_quotes = re.compile(f'["\r\n{re.escape(delimiter)}]')

    def cell(text: str) -> str:
        return '"' + text.replace('"', '""') + '"' if needs_quotes.search(text) else text

    nothing = delimiter * (len(piece.columns) - 1)
    aside = [_set_aside(piece, column) for column in piece.columns]
    file.write(delimiter.join(cell(column.name) for column in piece.columns) + "\n")
    for ids, vectors in piece.blocks(token, progress):
        columns = [_cells(vector, cell) for vector in vectors]
        for cells, kept in zip(columns, aside, strict=True):
            if kept:
                for place, row_id in enumerate(ids):
                    if row_id in kept:
                        cells[place] = cell(kept[row_id])
        lines = map(delimiter.join, zip(*columns, strict=True))
        # a line of separators alone would be no row at all
        file.write("\n".join(['""' + line if line == nothing else line for line in lines]) + "\n")


def _cells(vector: Vector, cell: Callable[[str], str]) -> list[str]:
    if isinstance(vector, CodedVector):
        words = [*map(cell, vector.dictionary.texts), ""]
        return [words[code] for code in vector.codes.tolist()]
    texts = vector.texts()
    if vector.kind is Kind.TEXT:
        return ["" if text is None else cell(text) for text in texts]
    return ["" if text is None else text for text in texts]


def _set_aside(piece: Frame, column: ShownColumn) -> dict[int, str]:
    """Return the texts of values that did not fit their column's kind, by row; a computed column has none."""
    value = column.value
    if not isinstance(value, ColumnValue) or not piece.table.columns[value.column].info.set_aside:
        return {}
    return {each.row: each.text for each in read_set_aside(piece.table.folder, value.column)}


def count_rows(path: Path, delimiter: str) -> int:
    """Read a delimited file back and count its rows, the header apart."""
    from yardcut.core.sources.blocks import read_blocks
    from yardcut.core.sources.form import Form

    return sum(len(block.row_ends()) for block in read_blocks(path, Form(delimiter), 1 << 21)) - 1
