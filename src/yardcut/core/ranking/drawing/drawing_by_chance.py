"""Draws in which each row goes by a chance of its own."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.drawing.drawn import Drawn
from yardcut.core.ranking.hashing import chance_limit, table_ranks
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table

_MOSTLY = 1.96
"""Standard deviations within which 95 of 100 draws stay."""


@dataclass(frozen=True, slots=True)
class _ChanceRound(Round[dict[int, Array], Array]):
    """Marks every row whose rank lies below a limit."""

    seed: int
    limit: int

    def scan(self, table: Table, part: Part) -> dict[int, Array]:
        """Mark the rows of one part."""
        ranks = table_ranks(self.seed, table, part.first_row, part.end_row)
        below = ranks < np.uint64(self.limit) if self.limit < 1 << 64 else np.ones(part.rows, dtype=np.bool_)
        return {part.first_row: bit.pack(below)}

    def merge(self, one: dict[int, Array], other: dict[int, Array]) -> dict[int, Array]:
        """Put parts side by side."""
        return one | other

    def finish(self, state: dict[int, Array]) -> Array:
        """Join the parts in the source's order."""
        return np.concatenate([state[start] for start in sorted(state)])


def draw_by_chance(work: BoundDraw, rows: RowSet, runner: Runner, token: CancelToken) -> Drawn:
    """Draw every row whose rank lies below the chance."""
    draw = work.draw
    written = Fraction(draw.amount.written)
    chance = 1 / written if draw.one_in else written / 100 if draw.amount.percent else written
    below = runner.run(_ChanceRound(draw.seed or 0, chance_limit(chance)), token)
    note = f"seed {draw.seed}; each row on its own, so another seed gives another count: {_usual(rows.count, chance)}"
    return Drawn(rows.only(below), (note,))


def _usual(rows: int, chance: Fraction) -> str:
    """Say how many of some rows a chance takes, and between which counts it stays 19 times in 20 (binomial)."""
    expected = rows * chance
    spread = _MOSTLY * math.sqrt(expected * (1 - chance))
    low, high = max(0, math.ceil(expected - spread)), min(rows, math.floor(expected + spread))
    return f"about {round(expected):,}, mostly {low:,} to {high:,}"
