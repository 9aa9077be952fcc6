"""Sums that do not depend on how the rows were cut, on threads, or on the processor.

Values are added in halving trees over blocks of 2^16 rows aligned to the file; the blocks' sums are added exactly
(Shewchuk 1997, as ``math.fsum``) and rounded once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardcut.core.expressions.values import evaluate
from yardcut.core.language.bound import BoundValue
from yardcut.core.scanning.parts import BLOCK_ROWS, Part
from yardcut.core.scanning.rounds import Round
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import NumericVector, part_of
from yardcut.core.table.window import Span

_HALF = 32
_LOW = (1 << _HALF) - 1


def tree_sum(block: Array) -> float:
    """Add at most ``BLOCK_ROWS`` doubles by halves: the same sum on every processor."""
    values = np.zeros(BLOCK_ROWS)
    values[: len(block)] = block
    size = BLOCK_ROWS
    while size > 1:
        size //= 2
        values = values[:size] + values[size:]
    return float(values[0])


@dataclass(frozen=True, slots=True, eq=False)
class SumRound(Round[dict[int, float | int], float | int | None]):
    """Adds a numeric expression over the members; integers exactly, doubles reproducibly. No value, no sum."""

    value: BoundValue
    members: Array | None

    def scan(self, table: Table, part: Part) -> dict[int, float | int]:
        """Add each block of one part."""
        found: dict[int, float | int] = {}
        whole_part = evaluate(self.value, Span(table, part.first_row, part.end_row))
        for start in range(part.first_row, part.end_row, BLOCK_ROWS):
            end = min(start + BLOCK_ROWS, part.end_row)
            vector = part_of(whole_part, start - part.first_row, end - part.first_row)
            assert isinstance(vector, NumericVector)
            kept = np.ones(end - start, dtype=np.bool_)
            if self.members is not None:
                kept = bit.unpack(self.members, start, end).copy()
            missing = vector.missing_mask()
            if missing is not None:
                kept &= ~missing
            if not kept.any():
                continue
            if vector.values.dtype.kind == "f":
                found[start] = tree_sum(np.where(kept, vector.values, 0.0))
            else:
                whole = vector.values.astype(np.int64)[kept]
                high, low = whole >> _HALF, whole & _LOW
                found[start] = (int(high.sum()) << _HALF) + int(low.sum())
        return found

    def merge(self, one: dict[int, float | int], other: dict[int, float | int]) -> dict[int, float | int]:
        """Put blocks side by side."""
        return one | other

    def finish(self, state: dict[int, float | int]) -> float | int | None:
        """Add the blocks."""
        import math

        if not state:
            return None
        values = list(state.values())
        if all(isinstance(value, int) for value in values):
            return sum(values)
        return math.fsum(values)
