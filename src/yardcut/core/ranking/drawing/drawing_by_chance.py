"""Draws in which each row goes by a chance of its own."""

from __future__ import annotations

import numpy as np

from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.draw_notes import chance_note
from yardcut.core.ranking.drawing.drawn import Drawn
from yardcut.core.ranking.hashing import chance_limit, table_ranks
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table


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
    below = runner.run(_ChanceRound(draw.seed or 0, chance_limit(draw.chance)), token)
    return Drawn(rows.only(below), (chance_note(draw, rows.count),))
