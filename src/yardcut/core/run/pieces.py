"""Answers of pieces, kept under a limit of memory so that a tree's counts after any change are arithmetic on bits."""

from __future__ import annotations

import threading
from collections import OrderedDict

from yardcut.core.expressions.conditions import Answers, combine
from yardcut.core.expressions.rounds import AnswerRound
from yardcut.core.language.bound import BoundCondition, Piece, pieces_of
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.scanning.rounds import Runner

_LIMIT_BYTES = 64 << 20


class PieceCache:
    """The answers of pieces over all rows of a source; the least used go first."""

    def __init__(self, runner: Runner, limit_bytes: int = _LIMIT_BYTES) -> None:
        self._runner = runner
        self._limit_bytes = limit_bytes
        self._answers: OrderedDict[Piece, Answers] = OrderedDict()
        self._lock = threading.Lock()

    def answers(
        self, condition: BoundCondition, token: CancelToken, progress: Progress | None = None
    ) -> dict[Piece, Answers]:
        """Return the answers of all pieces of a condition, evaluating only those not known yet."""
        wanted = list(dict.fromkeys(pieces_of(condition)))
        with self._lock:
            known = {piece: self._answers[piece] for piece in wanted if piece in self._answers}
            for piece in known:
                self._answers.move_to_end(piece)
        unknown = tuple(piece for piece in wanted if piece not in known)
        if unknown:
            if progress is not None:
                progress.begin("looking at rows", self._runner.table.rows)
            found = self._runner.run(AnswerRound(unknown), token, progress)
            known |= found
            with self._lock:
                self._answers.update(found)
                self._trim()
        return known

    def combined(self, condition: BoundCondition, token: CancelToken, progress: Progress | None = None) -> Answers:
        """Return the answers of a whole condition."""
        return combine(condition, self.answers(condition, token, progress), self._runner.table.rows)

    def _trim(self) -> None:
        size = sum(answers.true.nbytes + answers.false.nbytes for answers in self._answers.values())
        while size > self._limit_bytes and len(self._answers) > 1:
            _, gone = self._answers.popitem(last=False)
            size -= gone.true.nbytes + gone.false.nbytes
