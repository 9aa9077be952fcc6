"""Answers of pieces straight from a source's own files: group by group, groups that cannot matter left unread."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field

import numpy as np

from yardcut.core.expressions.column_ranges import answer_of_range
from yardcut.core.expressions.evaluating import answer_piece, combine
from yardcut.core.expressions.piece_rounds import PartAnswers
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.language.meaning.bound import BoundCondition, Piece
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import zeros
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Decoded

_MOST_WAITING = 1 << 26
"""Rows whose answers wait: 8 MB a piece."""
_Some = tuple[int, int, dict[Piece, Answers]]


@dataclass(slots=True)
class AnswersOfRows:
    """Answers of pieces for rows that come in any sequence; many of them are put in their place at once.

    One bit a row: ``true``, and for pieces that are unknown somewhere ``unknown``.
    """

    rows: int
    waiting: list[_Some] = field(default_factory=list)
    true: dict[Piece, Array] = field(default_factory=dict)
    unknown: dict[Piece, Array] = field(default_factory=dict)

    def join(self, other: AnswersOfRows) -> None:
        """Take over the answers of other rows that are in their place already."""
        for mine, theirs in ((self.true, other.true), (self.unknown, other.unknown)):
            for piece, found in theirs.items():
                if piece in mine:
                    mine[piece] |= found
                else:
                    mine[piece] = found

    def take(self) -> None:
        """Put the answers that wait in their place."""
        size = (self.rows + 7) // 8
        for first, end, answers in self.waiting:
            for piece, found in answers.items():
                if piece not in self.true:
                    self.true[piece] = zeros(size, np.uint8)
                _merge(self.true[piece], first, end, found.true)
                if found.unknown is not None:
                    if piece not in self.unknown:
                        self.unknown[piece] = zeros(size, np.uint8)
                    _merge(self.unknown[piece], first, end, found.unknown)
        self.waiting.clear()

    def parts(self, parts: Sequence[Part]) -> PartAnswers:
        """Return the answers cut as the parts of a round are."""
        return [
            {
                piece: Answers(
                    part.rows,
                    bit.window(true, part.first_row, part.end_row),
                    bit.window(self.unknown[piece], part.first_row, part.end_row) if piece in self.unknown else None,
                )
                for piece, true in self.true.items()
            }
            for part in parts
        ]


@dataclass(frozen=True, slots=True)
class AnswerInFilesRound(Round[AnswersOfRows, AnswersOfRows]):
    """Answers each piece for every row of a source whose files are gone over; nothing is stored.

    Progress says of how many rows the condition that is ``watched`` is true. Raises ``SourceError``, ``StoppedError``,
    ``NotAsDeclaredError``.
    """

    pieces: tuple[Piece, ...]
    watched: BoundCondition | None

    def own_parts(self, table: Table) -> Sequence[Part]:
        """Return the groups of the files."""
        groups = table.group_scan().groups()
        return [
            Part(0, str(table.folder), first, end - first, table.fingerprint) for first, end in groups if end > first
        ]

    def stored_columns(self) -> set[int]:
        """Return none."""
        return set()

    def scan(self, table: Table, part: Part) -> AnswersOfRows:
        """Answer the pieces for one group."""
        return self.look(table, part, CancelToken())

    def look(self, table: Table, part: Part, token: CancelToken, progress: Progress | None = None) -> AnswersOfRows:
        """Answer the pieces for one group; no column is read of one where the file says enough of all of them."""
        state = AnswersOfRows(table.rows)
        token.check()
        if not part.rows:
            return state
        scan = table.group_scan()
        group = scan.group_at(part.first_row)
        unread = sorted(number for number in columns_read(self.pieces) if not table.columns[number].is_loaded)
        ranges = scan.ranges(unread, group)
        known = {piece: answer_of_range(piece, ranges) for piece in self.pieces}
        sure = {piece: answer for piece, answer in known.items() if answer is not None}
        rest = [piece for piece in self.pieces if piece not in sure]
        if not rest:
            answers = {piece: _all(answer, part.rows) for piece, answer in sure.items()}
            self._note(state, part.first_row, part.end_row, answers, progress)
            return state
        wanted = sorted(columns_read(tuple(rest)) & set(unread))
        for start, stop, vectors in scan.vectors(wanted, group, token):
            token.check()
            window = Decoded(table, start, stop, vectors)
            answers = {piece: answer_piece(piece, window) for piece in rest}
            answers |= {piece: _all(answer, stop - start) for piece, answer in sure.items()}
            self._note(state, start, stop, answers, progress)
        return state

    def _note(
        self, state: AnswersOfRows, first: int, end: int, answers: dict[Piece, Answers], progress: Progress | None
    ) -> None:
        state.waiting.append((first, end, answers))
        if progress is not None:
            progress.advance(end - first)
            if self.watched is not None:
                progress.found(end - first, bit.count(combine(self.watched, answers).true))

    def merge(self, one: AnswersOfRows, other: AnswersOfRows) -> AnswersOfRows:
        """Put the answers of other rows beside those of one."""
        if not one.true and other.true:
            one, other = other, one
        one.waiting += other.waiting
        one.join(other)
        if one.true or sum(end - first for first, end, _ in one.waiting) > _MOST_WAITING:
            one.take()
        return one

    def finish(self, state: AnswersOfRows) -> AnswersOfRows:
        """Return the answers of all rows."""
        state.take()
        for piece in self.pieces:  # of no rows at all
            state.true.setdefault(piece, np.zeros(0, np.uint8))
        return state


def _all(answer: bool, rows: int) -> Answers:
    return Answers(rows, bit.ones(rows) if answer else np.zeros((rows + 7) // 8, dtype=np.uint8))


def _merge(bits: Array, first: int, end: int, some: Array) -> None:
    """Put the bits of some rows in their place, which need not begin a byte."""
    shift = first % 8
    if shift:
        some = np.packbits(
            np.concatenate((np.zeros(shift, dtype=np.bool_), bit.unpack(some, 0, end - first))), bitorder="little"
        )
    bits[first // 8 : first // 8 + len(some)] |= some
