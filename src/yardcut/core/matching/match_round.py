"""Which row of a second table each row finds: one number a row."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.matching.key_index import KeyIndex
from yardcut.core.matching.latest_rows import LatestRows
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import NumericVector
from yardcut.core.table.window import Span

_State = list[tuple[int, Array]]


@dataclass(frozen=True, slots=True, eq=False)
class MatchRound(Round[_State, Array]):
    """Looks every row up. Its result (uint32) has for each row the number of its key, or with ``latest`` the row found;
    ``nothing`` where none is, and one more where one of its own values is missing.
    """

    keys: tuple[BoundValue, ...]
    index: KeyIndex
    nothing: int
    moment: BoundValue | None = None
    latest: LatestRows | None = None

    def scan(self, table: Table, part: Part) -> _State:
        """Look up the rows of one part."""
        window = Span(table, part.first_row, part.end_row)
        vectors = [evaluate(key, window) for key in self.keys]
        found = self.index.find(vectors)
        if self.latest is not None and self.moment is not None:
            moments = evaluate(self.moment, window)
            assert isinstance(moments, NumericVector)
            found = self.latest.find(found, moments)
            vectors.append(moments)
        found = np.where(found < 0, self.nothing, found)
        for vector in vectors:
            gone = vector.missing_mask()
            if gone is not None:
                found[gone] = self.nothing + 1
        return [(part.first_row, found.astype(np.uint32))]

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return [*one, *other]

    def finish(self, state: _State) -> Array:
        """Join the parts in the table's order."""
        return np.concatenate([found for _, found in sorted(state, key=lambda part: part[0])])
