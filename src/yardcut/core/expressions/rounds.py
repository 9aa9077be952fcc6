"""The round that answers pieces of conditions."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from yardcut.core.expressions.conditions import Answers, answer_piece
from yardcut.core.language.bound import Piece
from yardcut.core.scanning.parts import Part
from yardcut.core.scanning.rounds import Round
from yardcut.core.table.table import Table

_State = dict[int, list[Answers]]


@dataclass(frozen=True, slots=True)
class AnswerRound(Round[_State, dict[Piece, Answers]]):
    """Answers each piece for every row of the source; combining them is arithmetic on bits afterwards."""

    pieces: tuple[Piece, ...]

    def scan(self, table: Table, part: Part) -> _State:
        """Answer the pieces for one part."""
        return {part.first_row: [answer_piece(piece, table, part.first_row, part.end_row) for piece in self.pieces]}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        one.update(other)
        return one

    def finish(self, state: _State) -> dict[Piece, Answers]:
        """Join the parts in the source's order."""
        starts = sorted(state)
        return {
            piece: Answers(
                np.concatenate([state[start][index].true for start in starts]),
                np.concatenate([state[start][index].false for start in starts]),
            )
            for index, piece in enumerate(self.pieces)
        }
