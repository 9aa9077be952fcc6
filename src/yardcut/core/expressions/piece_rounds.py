"""The round that answers pieces of conditions."""

from __future__ import annotations

from yardcut.core.expressions.evaluating import answer_piece
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.language.meaning.bound import Piece
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Span

_State = dict[int, list[Answers]]

PartAnswers = list[dict[Piece, Answers]]
"""The answers of pieces for each part of a source, in its order; joining them costs more than combining them."""


@dataclass(frozen=True, slots=True)
class AnswerRound(Round[_State, PartAnswers]):
    """Answers each piece for every row of the source; combining them is arithmetic on bits afterwards."""

    pieces: tuple[Piece, ...]

    def scan(self, table: Table, part: Part) -> _State:
        """Answer the pieces for one part."""
        window = Span(table, part.first_row, part.end_row)
        return {part.first_row: [answer_piece(piece, window) for piece in self.pieces]}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        one.update(other)
        return one

    def finish(self, state: _State) -> PartAnswers:
        """Put the parts in the source's order."""
        return [dict(zip(self.pieces, state[start], strict=True)) for start in sorted(state)]
