"""The least or the largest value of an expression over some rows, of any kind."""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.profile.members import members_with_values
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector, NumericVector
from yardcut.core.table.window import Span

Found = int | float | str | None


@dataclass(frozen=True, slots=True, eq=False)
class ExtremeRound(Round[Found, Found]):
    """Finds the least value among the members, or the ``largest``; ``None``: there is none. Texts by code point."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)
    largest: bool

    def scan(self, table: Table, part: Part) -> Found:
        """Look at one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        kept = members_with_values(vector, self.members, part)
        if not kept.any():
            return None
        if isinstance(vector, NumericVector):
            values = vector.values[kept]
            found: Found = (values.max() if self.largest else values.min()).item()
            return found
        if isinstance(vector, CodedVector):
            words = [vector.dictionary.texts[code] for code in np.unique(vector.codes[kept]).tolist()]
        else:
            texts = vector.texts()
            words = [texts[row] or "" for row in np.flatnonzero(kept).tolist()]
        best: str = max(words) if self.largest else min(words)
        return best

    def merge(self, one: Found, other: Found) -> Found:
        """Take the better one."""
        if one is None or other is None:
            return other if one is None else one
        found: Found = (max if self.largest else min)([one, other])
        return found

    def finish(self, state: Found) -> Found:
        """Return it."""
        return state
