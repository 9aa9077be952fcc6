"""Rows beside one another in an order: which of them have the same values."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.testing.text_tests import prefixes
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.progress import CancelToken
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector
from yardcut.core.table.window import Scatter

_BLOCK_ROWS = 1 << 17
_MOST_STEPS = 8
"""Of eight bytes each, taken of all texts at once; longer ones that are still alike are compared one by one."""


def begins_of_runs(values: tuple[BoundValue, ...], ordered: RowSet, table: Table, token: CancelToken) -> Array:
    """Return for each row of an order whether it begins a run of rows that have the same values (booleans)."""
    begins = np.ones(ordered.count, dtype=np.bool_)
    for start in range(0, ordered.count - 1, _BLOCK_ROWS):
        token.check()
        window = Scatter(table, ordered.ids(start, min(start + _BLOCK_ROWS + 1, ordered.count)))
        same = np.ones(len(window) - 1, dtype=np.bool_)
        for value in values:
            same &= same_as_before(evaluate(value, window))
        begins[start + 1 : start + len(window)] = ~same
    return begins


def same_as_before(vector: Vector) -> Array:
    """Return for each row but the first whether it has the value of the row before it, or both have none."""
    if isinstance(vector, CodedVector):
        same: Array = vector.codes[1:] == vector.codes[:-1]
        return same
    gone = vector.missing_mask()
    if isinstance(vector, NumericVector):
        same = vector.values[1:] == vector.values[:-1]
    else:
        same = _same_texts(vector)
    if gone is None:
        return same
    both: Array = gone[1:] & gone[:-1]
    neither = ~gone[1:] & ~gone[:-1]
    return both | (neither & same)


def _same_texts(vector: PlainVector) -> Array:
    sizes = vector.lengths()
    same: Array = sizes[1:] == sizes[:-1]
    for step in range(min(_MOST_STEPS, -(-int(sizes.max(initial=0)) // 8))):
        if not same.any():
            return same
        words = prefixes(vector, 8 * step)
        same &= words[1:] == words[:-1]
    long = np.flatnonzero(same & (sizes[1:] > 8 * _MOST_STEPS))
    if len(long):
        texts = vector.texts()
        same[long] = [texts[place] == texts[place + 1] for place in long.tolist()]
    return same
