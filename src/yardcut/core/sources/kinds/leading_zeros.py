"""Finding cells with a leading zero in a block, which an arithmetic kind would lose."""

from __future__ import annotations

import re

import numpy as np

from yardcut.core.sources.delimited_blocks.cutting import Block, are_outside
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.table.array_file import Array
from yardcut.core.values.patterns import compiled

_ZERO = 48
_LINE_FEED = 10
_SIGNS = (43, 45)


def columns_with_leading_zeros(block: Block, form: Form, *, first_column: bool) -> set[int]:
    """Return the numbers of the columns (from 0) in which a cell starts with ``0`` and another digit or ``x``.

    Works on the raw bytes, since parsed integers have lost the zero. One search over the block finds whether there is
    any such cell; only then are the cells found. The first column is looked at when ``first_column`` says so.
    """
    quote, delimiter = re.escape(form.quote), re.escape(form.delimiter)
    before = f"(?:^|\n|{delimiter})" if first_column else delimiter
    if compiled(f"{before}{quote}?[+-]?0[0-9xX]").search(block.data) is None:
        return set()
    data = np.frombuffer(block.data, dtype=np.uint8)
    following = data[1:]
    hits = np.flatnonzero((data[:-1] == _ZERO) & (((following - _ZERO) < 10) | ((following | 32) == 120)))
    hits = hits[_starts_cell(data, hits, ord(form.delimiter), ord(form.quote), are_outside(block.quotes, hits))]
    if not len(hits):
        return set()
    commas = np.flatnonzero(data == ord(form.delimiter))
    commas = commas[are_outside(block.quotes, commas)]
    row_ends = block.row_ends()
    rows = np.searchsorted(row_ends, hits)
    row_starts = np.concatenate(([0], row_ends + 1))[rows]
    numbers = np.searchsorted(commas, hits) - np.searchsorted(commas, row_starts)
    return set(np.flatnonzero(np.bincount(numbers)).tolist())


def _starts_cell(data: Array, hits: Array, delimiter: int, quote: int, outside: Array) -> Array:
    before = np.where(hits > 0, data[np.maximum(hits - 1, 0)], _LINE_FEED)
    signed = (before == _SIGNS[0]) | (before == _SIGNS[1])
    earlier = np.where(hits > 1, data[np.maximum(hits - 2, 0)], _LINE_FEED)
    before = np.where(signed, earlier, before)
    result: Array = (outside & ((before == delimiter) | (before == _LINE_FEED))) | (before == quote)
    return result
