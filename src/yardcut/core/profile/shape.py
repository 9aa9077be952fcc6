"""A small distribution of a column from a spread of its rows: quick, for the grid's head."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.vectors import CodedVector, NumericVector
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind

SPREAD_ROWS = 1 << 14
STEPS = 20


def spread(rows: RowSet, most: int = SPREAD_ROWS) -> Array:
    """Return the ids of at most ``most`` rows, evenly spread over a set."""
    if rows.count <= most:
        return rows.ids(0, rows.count)
    if rows.order is None and rows.bits is None:
        return (np.arange(most, dtype=np.int64) * rows.count // most).astype(np.uint32)
    # a few runs of neighbours cost one look each, where single rows would cost one look a row
    runs = 64
    length = most // runs
    starts = [(rows.count - length) * run // (runs - 1) for run in range(runs)]
    return np.concatenate([rows.ids(start, start + length) for start in starts])


def shape(value: BoundValue, earlier: Scatter, rows: Scatter) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Return the distribution of a value as (now, before), counts in equal steps over the range of the earlier rows.

    Texts are counted by value, the most frequent of the earlier rows first; plain texts have no shape.
    """
    before, now = evaluate(value, earlier), evaluate(value, rows)
    if isinstance(before, CodedVector) and isinstance(now, CodedVector):
        words = len(before.dictionary)
        was = np.bincount(before.codes[before.codes >= 0], minlength=words)
        order = np.argsort(-was, kind="stable")[:STEPS]
        is_now = np.bincount(now.codes[now.codes >= 0], minlength=words)
        return tuple(is_now[order].tolist()), tuple(was[order].tolist())
    if not isinstance(before, NumericVector) or not isinstance(now, NumericVector):
        return (), ()
    values, values_now = _present(before), _present(now)
    if not len(values):
        return (), ()
    least, most = float(values.min()), float(values.max())
    if not np.isfinite(most - least):
        return (), ()
    steps = 2 if before.kind is Kind.BOOLEAN else STEPS
    if before.kind is not Kind.NUMBER:
        steps = min(steps, int(most - least) + 1)
    edges = np.linspace(least, most + (0 if before.kind is Kind.NUMBER else 1), steps + 1)
    edges[-1] = np.inf
    was = np.histogram(values, edges)[0] if most > least else np.array([len(values)])
    is_now = np.histogram(values_now, edges)[0] if most > least else np.array([len(values_now)])
    return tuple(is_now.tolist()), tuple(was.tolist())


def _present(vector: NumericVector) -> Array:
    mask = vector.missing_mask()
    return vector.values if mask is None else vector.values[~mask]
