"""How many rows there will be in all, and how many lines will leave, by rows from all over the file."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Sequence

import numpy as np

from yardcut.core.errors import ListError
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.plan_parts import looks_at_other_rows
from yardcut.core.sources.sampled_places import SampledPlaces
from yardcut.core.sources.some_columns import NotReadError
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet

_FEWEST_ROWS = 100
_LARGEST_ERROR = 0.1
"""Of an estimate, as a part of it: where the places differ more, as they do in a file that stands in order, there is
none."""
_DIGITS = 2


def estimated_counts(
    places: SampledPlaces, lines: Sequence[BoundLine], executor: Executor, token: CancelToken
) -> list[int | None]:
    """Return about how many rows there are in all, and for each line how many it leaves, ``None`` where nobody knows.

    ``lines`` are bound to the table of the places; behind the first that is no condition on single rows none is told.
    Raises ``StoppedError``.
    """
    found: list[int | None] = [rounded(places.rows_in_all)]
    for result in executor.run_bound(_conditions(lines), token):
        share = _share(result.rows, places.ends)
        found.append(None if share is None else rounded(share * places.rows_in_all))
    return found


def counts_as_far_as_read(lines: Sequence[BoundLine], executor: Executor, token: CancelToken) -> list[int]:
    """Return how many rows each line leaves, up to the first that is wrong or looks at a column that is not read.

    Raises ``StoppedError``.
    """
    counts = list[int]()
    with contextlib.suppress(NotReadError, ListError):
        for result in executor.run_bound(lines, token):
            counts.append(result.rows.count)
    return counts


def _conditions(lines: Sequence[BoundLine]) -> list[BoundLine]:
    """Return the lines at the head that look at each row by itself, those that are off too."""
    found = []
    for line in lines:
        body = line.bound.body if line.bound is not None else None
        if not line.off and (line.error is not None or not isinstance(body, BoundFilter) or looks_at_other_rows(body)):
            break
        found.append(line)
    return found


def _share(rows: RowSet, ends: Array) -> float | None:
    """Return the share of rows among all, unless it is too uncertain.

    The places are clusters of equal distance: the error is that of a ratio of their sums (Cochran, *Sampling
    Techniques*, 3rd edition, 1977, section 6.3), as if they lay at random.
    """
    sizes = np.diff(ends, prepend=0)
    seen = np.concatenate(([0], np.cumsum(bit.unpack(rows.member_bits(), 0, rows.table_rows))))
    hits = np.diff(seen[ends], prepend=0)
    total = int(hits.sum())
    if total < _FEWEST_ROWS:
        return None
    share = total / int(sizes.sum())
    count = len(ends)
    spread = float(np.sum((hits - share * sizes) ** 2)) / (count * (count - 1))
    error = math.sqrt(spread) / float(sizes.mean())
    return share if error <= _LARGEST_ERROR * share else None


def rounded(estimate: float) -> int:
    """Return an estimate with as many digits as it is worth.

    >>> rounded(12_345_678.9), rounded(96.4)
    (12000000, 96)
    """
    if estimate < 1:
        return 0
    return int(round(estimate, _DIGITS - 1 - math.floor(math.log10(estimate))))
