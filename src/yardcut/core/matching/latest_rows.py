"""The nearest earlier row: of the rows with a key, the last whose moment is not after another."""

from __future__ import annotations

import numpy as np

from yardcut.core.matching.key_index import KeyIndex
from yardcut.core.matching.number_keys import NumberKeys, common_kind
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, eq=False)
class LatestRows:
    """Rows of a second table by key and moment. ``places`` ascend; ``rows`` are those that stand there.

    ``same`` are two rows of one key and one moment, where there are such.
    """

    keys: KeyIndex
    moments: NumberKeys
    places: Array
    rows: Array
    same: tuple[int, int] | None

    def find(self, numbers: Array, moments: NumericVector) -> Array:
        """Return the row of each key's number up to a moment (int64); -1 where there is none."""
        if not len(self.places):
            return np.full(len(numbers), -1, np.int64)
        wide = len(self.moments) + 1
        wanted = numbers * wide + self.moments.up_to(moments)
        at = np.searchsorted(self.places, wanted, side="right") - 1
        here = (numbers >= 0) & (at >= 0) & (self.places[at] // wide == numbers)
        return np.where(here, self.rows[at], -1)


def latest_rows(keys: KeyIndex, moments: NumericVector, kind: Kind) -> LatestRows:
    """Return the rows of a second table by key and moment, to be compared with moments of a kind.

    Rows without a moment are never found.
    """
    found, of_rows = NumberKeys.numbered(moments, common_kind(kind, moments.kind))
    number_of = np.repeat(np.arange(len(keys)), keys.counts)
    codes = of_rows[keys.rows]
    present = codes >= 0
    places = number_of[present] * (len(found) + 1) + codes[present] + 1
    order = np.argsort(places, kind="stable")
    places, rows = places[order], keys.rows[present][order]
    twice = np.flatnonzero(places[1:] == places[:-1])
    same = (int(rows[twice[0]]), int(rows[twice[0] + 1])) if len(twice) else None
    return LatestRows(keys, found, places, rows, same)
