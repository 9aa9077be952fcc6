"""Columns that stand beside each other in a source and in a slice of it: their cells are copied as one text."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ColumnValue, ShownColumn
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.cutting import are_outside, paired_quotes
from yardcut.core.sources.delimited_blocks.line_feeds import LINE_FEED
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.formats.raw_rows import ChosenRows
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts


@dataclass(frozen=True, slots=True)
class Stretch:
    """Columns of a source, from number ``first`` (from 0) to below ``end``."""

    first: int
    end: int


Part = Stretch | tuple[ShownColumn, ...]
"""What stands beside each other in a slice: columns of the source as they are, or computed ones."""


class UnevenRowsError(Exception):
    """A row has another number of cells than the source has columns."""


def parts_of(piece: Frame) -> list[Part]:
    """Return a slice's columns as stretches of its source and computed columns between them, in order."""
    parts: list[Part] = []
    for column in piece.columns:
        last = parts[-1] if parts else None
        if isinstance(column.value, ColumnValue):
            number = column.value.column
            if isinstance(last, Stretch) and last.end == number:
                parts[-1] = Stretch(last.first, number + 1)
            else:
                parts.append(Stretch(number, number + 1))
        elif isinstance(last, tuple):
            parts[-1] = (*last, column)
        else:
            parts.append((column,))
    return parts


def cut_out(rows: ChosenRows, form: Form, width: int, stretches: Sequence[Stretch]) -> list[tuple[Array, Array]]:
    """Cut stretches out of rows of ``width`` cells.

    Returns for each the bytes of its cells (uint8), a line feed behind those of each row, and the offset behind each
    line feed (int64). Raises ``UnevenRowsError``.
    """
    content, ends = np.frombuffer(rows.data, dtype=np.uint8), np.cumsum(rows.sizes)
    if all(stretch == Stretch(0, width) for stretch in stretches):
        return [(content, ends) for _ in stretches]
    starts = ends - rows.sizes
    marks = np.flatnonzero(content == ord(form.delimiter))
    quotes = paired_quotes(rows.data, form)
    if quotes is not None:
        marks = marks[are_outside(quotes, marks)]
    if len(marks) != len(ends) * (width - 1):
        raise UnevenRowsError
    grid = marks.reshape(len(ends), width - 1)
    if (grid[:, 0] < starts).any() or (grid[:, -1] >= ends).any():
        raise UnevenRowsError
    return [
        _copied(
            content,
            starts if stretch.first == 0 else grid[:, stretch.first - 1] + 1,
            ends if stretch.end == width else grid[:, stretch.end - 1] + 1,
        )
        for stretch in stretches
    ]


def _copied(content: Array, starts: Array, ends: Array) -> tuple[Array, Array]:
    sizes = ends - starts
    behind = np.cumsum(sizes)
    taken = np.empty(int(behind[-1]) if len(behind) else 0, dtype=np.uint8)
    copy_texts(content, starts, sizes, taken, behind - sizes)
    taken[behind - 1] = LINE_FEED
    return taken, behind
