"""How many rows conditions on offer would leave: all counted in one round, each told as it comes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from yardcut.core.expressions.conditions import combine_parts
from yardcut.core.language import bound as b
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.pieces import PieceCache
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet


@dataclass(frozen=True, slots=True)
class Offer:
    """A condition on offer, with whatever the asker knows it by; ``drops`` when the rows for which it is true go."""

    key: Any
    condition: b.BoundCondition
    drops: bool = False


class LiveCounts:
    """Counts offers among some rows. What pieces answer is kept, so that an offer made of known ones costs no round."""

    def __init__(self, pieces: PieceCache, rows: RowSet) -> None:
        self._pieces = pieces
        self._rows = rows

    def ask(
        self,
        offers: Sequence[Offer],
        tell: Callable[[Any, int], None],
        token: CancelToken,
        progress: Progress | None = None,
    ) -> None:
        """Count each offer and tell the rows it would leave; those whose answers are known come first."""
        known = [offer for offer in offers if self._pieces.knows(b.pieces_of(offer.condition))]
        rest = [offer for offer in offers if offer not in known]
        for some in (known, rest):
            wanted = tuple(piece for offer in some for piece in b.pieces_of(offer.condition))
            if not wanted:
                continue
            answers = self._pieces.answers(b.AllOf(wanted), token, progress)
            for offer in some:
                token.check()
                true = self._rows.member_bits() & combine_parts(offer.condition, answers).true
                count = bit.count(true)
                tell(offer.key, self._rows.count - count if offer.drops else count)
