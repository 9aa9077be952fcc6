"""What the keys of an order decide: rows that are still tied after the last one, and keys that never decide."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import Key
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.neighbours import same_as_before
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Scatter

_BLOCK_ROWS = 1 << 17


@dataclass(frozen=True, slots=True)
class Ties:
    """What is tied after each key: ``rows`` that equal another one on all keys so far, and ``pairs`` of neighbours."""

    rows: tuple[int, ...]
    pairs: tuple[int, ...]

    @property
    def idle(self) -> tuple[int, ...]:
        """The places of keys that never decide: no two neighbours equal on the keys before differ in them."""
        return tuple(place for place in range(1, len(self.pairs)) if self.pairs[place] == self.pairs[place - 1])


def count_ties(keys: tuple[Key, ...], rows: RowSet, table: Table, token: CancelToken) -> Ties:
    """Count ties among rows that stand in the order of ``keys``. Missing equals missing, as in the order itself."""
    tied = np.zeros(len(keys), dtype=np.int64)
    pairs = np.zeros(len(keys), dtype=np.int64)
    for start in range(0, rows.count, _BLOCK_ROWS):
        token.check()
        # one row of the block before, and one of the next, so that every row meets both its neighbours
        window = Scatter(table, rows.ids(max(0, start - 1), min(start + _BLOCK_ROWS + 1, rows.count)))
        same = np.ones(max(0, len(window) - 1), dtype=np.bool_)
        own = min(_BLOCK_ROWS, rows.count - start)
        first = 0 if start == 0 else 1
        for place, key in enumerate(keys):
            if not same.any():
                break  # no two rows here are equal on the keys so far: later ones tie none
            same = same & same_as_before(evaluate(key.value, window))
            with_last = np.concatenate(([False], same)) if start == 0 else same
            with_next = np.append(same, False)[first:]
            tied[place] += int(np.count_nonzero(with_last[:own] | with_next[:own]))
            pairs[place] += int(np.count_nonzero(with_last[:own]))
    return Ties(tuple(tied.tolist()), tuple(pairs.tolist()))
