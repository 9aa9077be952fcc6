"""Answers of pieces, kept under a limit of memory so that a tree's counts after any change are arithmetic on bits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from weakref import WeakKeyDictionary

from yardcut.core.cached import Kept
from yardcut.core.expressions.direct_answers import AnswerInFilesRound
from yardcut.core.expressions.evaluating import combine_parts
from yardcut.core.expressions.piece_rounds import AnswerRound, PartAnswers
from yardcut.core.expressions.testing.answers import Answers
from yardcut.core.language.meaning.bound import BoundCondition, Piece
from yardcut.core.language.meaning.bound_parts import pieces_of
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.stored_table import Table
from yardcut.core.table.unread import NotAsDeclaredError

_LEAST_BYTES, _MOST_BYTES, _BYTES_A_ROW = 64 << 20, 400 << 20, 2
"""An answer is one or two bits a row: what is kept is enough for the pieces of some lines, and bounded all the same."""


class PieceCache:
    """The answers of pieces over all rows of a source; the least used go first."""

    def __init__(self, runner: Runner) -> None:
        self._runner = runner
        limit_bytes = min(_MOST_BYTES, max(_LEAST_BYTES, _BYTES_A_ROW * runner.table.rows))
        self._others: WeakKeyDictionary[Table, PieceCache] = WeakKeyDictionary()
        self._answers: Kept[Piece, list[Answers]] = Kept(limit_bytes, _size_bytes)

    def over(self, table: Table) -> PieceCache:
        """Return the answers over all rows of another table, such as one of copies; itself where it is its own."""
        if table is self._runner.table:
            return self
        return self._others.setdefault(table, PieceCache(self._runner.over(table)))

    def answers(self, condition: BoundCondition, token: CancelToken, progress: Progress | None = None) -> PartAnswers:
        """Return the answers of all pieces of a condition, evaluating only those not known yet."""
        wanted = list(dict.fromkeys(pieces_of(condition)))
        plain = {piece: _plain(piece) for piece in wanted}
        known = self._answers.get_all(list(plain.values()))
        unknown = tuple({plain[piece]: piece for piece in wanted if plain[piece] not in known}.values())
        if unknown:
            parts = self._from_files(condition, wanted, unknown, token, progress)
            if parts is None:
                if progress is not None:
                    progress.begin("looking at rows", self._runner.table.rows)
                parts = self._runner.run(AnswerRound(unknown), token, progress)
            found = {plain[piece]: [_turned(answers[piece], piece) for answers in parts] for piece in unknown}
            known |= found
            self._answers.put_all(found)
        count = len(next(iter(known.values())))
        return [{piece: _turned(known[plain[piece]][part], piece) for piece in wanted} for part in range(count)]

    def _from_files(
        self, condition: BoundCondition, wanted: Sequence[Piece], unknown: Sequence[Piece], token: CancelToken,
        progress: Progress | None,
    ) -> PartAnswers | None:  # fmt: skip
        """Answer pieces about columns nobody looked at before in the source's own files, where that can be done."""
        table = self._runner.table
        if not table.is_worth_scanning(columns_read(tuple(unknown))):
            return None
        watched = condition if len(unknown) == len(wanted) else None
        if progress is not None:
            progress.begin("looking at rows", table.rows)
        try:
            found = self._runner.run(AnswerInFilesRound(tuple(unknown), watched), token, progress)
        except NotAsDeclaredError:
            return None
        table.group_scan().end()
        return found.parts(self._runner.parts)

    def knows(self, pieces: Sequence[Piece]) -> bool:
        """Tell whether the answers of some pieces are all known."""
        wanted = set(map(_plain, pieces))
        return len(self._answers.get_all(list(wanted))) == len(wanted)

    def at_hand(self, pieces: Sequence[Piece]) -> bool:
        """Tell whether some pieces can be answered without reading columns that stand in their own files only."""
        columns = self._runner.table.columns
        return all(columns[number].is_loaded for number in columns_read(tuple(pieces))) or self.knows(pieces)

    def combined(self, condition: BoundCondition, token: CancelToken, progress: Progress | None = None) -> Answers:
        """Return the answers of a whole condition."""
        return combine_parts(condition, self.answers(condition, token, progress))


def _plain(piece: Piece) -> Piece:
    """Return a piece without its NOT: what is known of the one is known of the other."""
    return replace(piece, negated=False) if piece.negated else piece


def _turned(answers: Answers, piece: Piece) -> Answers:
    return answers.inverse() if piece.negated else answers


def _size_bytes(parts: list[Answers]) -> int:
    return sum(answers.nbytes for answers in parts)
