"""The place of each row's text in code point order, for columns of many long texts."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.text_tests import prefixes
from yardcut.core.progress import CancelToken
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import PlainVector, gather_plain


def rank_rows(vector: PlainVector, token: CancelToken) -> tuple[Array, int]:
    """Return a dense rank (int64) for every row, equal texts alike, and the number of ranks.

    Most significant first: rows are ordered by eight bytes of text, and only those that still tie are looked at
    further along. Complexity: O(n log n) for the first eight bytes, then only over ties.
    """
    rows = np.arange(len(vector), dtype=np.int64)
    group = np.zeros(len(vector), dtype=np.int64)
    active = rows
    skip = 0
    sizes = vector.lengths()
    while len(active):
        token.check()
        some = vector if active is rows else gather_plain(vector, active)
        word = prefixes(some, skip)
        # a text that ends here comes before one that goes on with a zero byte
        left = np.minimum(np.maximum(sizes[active] - skip, 0), 9)
        order = np.lexsort((left, word, group[active]))
        ordered = active[order]
        old, new_word, new_left = group[ordered], word[order], left[order]
        starts = np.ones(len(ordered), dtype=np.bool_)
        starts[1:] = (old[1:] != old[:-1]) | (new_word[1:] != new_word[:-1]) | (new_left[1:] != new_left[:-1])
        # groups are numbered by the place of their first row, so that refined ones stay between their neighbours
        first_of_old = np.ones(len(ordered), dtype=np.bool_)
        first_of_old[1:] = old[1:] != old[:-1]
        positions = np.arange(len(ordered))
        offset = positions - np.maximum.accumulate(np.where(first_of_old, positions, 0))
        last_start = np.maximum.accumulate(np.where(starts, positions, 0))
        group[ordered] = old + offset[last_start]
        tied = ~starts
        tied[:-1] |= ~starts[1:]
        active = ordered[tied & (new_left > 8)]
        skip += 8
    present = np.zeros(len(vector) + 1, dtype=np.bool_)
    present[group] = True
    ranks = np.cumsum(present) - 1
    return ranks[group], int(ranks[-1]) + 1
