"""Finding a text anywhere in some rows, column by column, as the grid shows the values."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.expressions.piece_rounds import AnswerRound
from yardcut.core.language.meaning import bound as b
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_CHARACTERS: dict[Kind, str] = {
    Kind.INTEGER: "0123456789-", Kind.NUMBER: "0123456789.-+einfa", Kind.BOOLEAN: "truefalse",
    Kind.DATE: "0123456789-", Kind.TIMESTAMP: "0123456789-: .", Kind.TIME: "0123456789:.",
}  # fmt: skip
"""What the values of a kind are written with: a text with anything else in it is in none of them."""


@dataclass(frozen=True, slots=True, eq=False)
class FoundText:
    """Where a text stands: the rows (one bit a row of the table), and how many of them in each column.

    ``is_whole`` is False while columns are still to be looked at.
    """

    text: str
    rows: Array
    by_column: tuple[tuple[str, int], ...]
    is_whole: bool

    @property
    def count(self) -> int:
        """How many rows have it."""
        return bit.count(self.rows)


def find_line(verb: str, text: str) -> str:
    """Return the line that keeps or drops the rows in which a text is found."""
    return f"{verb} ANY OF (all) CONTAINS {quote_text(text)} IGNORING CASE"


def find_text(
    text: str, frame: Frame, runner: Runner, tell: Callable[[FoundText], None], token: CancelToken,
    progress: Progress | None = None,
) -> FoundText:  # fmt: skip
    """Find a text, whatever its capitals, in all columns of a frame; what is found so far is told column by column."""
    members, runner = frame.rows.member_bits(), runner.over(frame.table)
    found = FoundText(text, np.zeros_like(members), (), is_whole=False)
    columns = [column for column in frame.columns if _may_hold(column.kind, text)]
    columns.sort(key=lambda column: column.kind is not Kind.TEXT)
    for column in columns:
        token.check()
        piece = b.Piece(b.TextMatch("contains", _as_text(column), text, ignoring_case=True))
        parts = runner.run(AnswerRound((piece,)), token, progress)
        true = np.concatenate([answers[piece].true for answers in parts]) & members
        count = bit.count(true)
        if count:
            counts = sorted((*found.by_column, (column.name, count)), key=lambda pair: -pair[1])
            found = FoundText(text, found.rows | true, tuple(counts), is_whole=False)
            tell(found)
    return FoundText(text, found.rows, found.by_column, is_whole=True)


def _as_text(column: b.ShownColumn) -> b.BoundValue:
    return column.value if column.kind is Kind.TEXT else b.Call("CAST", (column.value,), Kind.TEXT, text="")


def _may_hold(kind: Kind, text: str) -> bool:
    written = _CHARACTERS.get(kind)
    return written is None or set(text.lower()) <= set(written)


def next_match(found: FoundText, frame: Frame, position: int, by: int) -> int | None:
    """Return the position of the next row with a match behind a position (``by`` 1) or before it (-1)."""
    step = 1 << 16
    total = frame.rows.count
    at = position + 1 if by > 0 else position
    while 0 < at <= total if by < 0 else at < total:
        first, end = (at, min(total, at + step)) if by > 0 else (max(0, at - step), at)
        hits = np.flatnonzero(bit.at(found.rows, frame.rows.ids(first, end)))
        if len(hits):
            return first + int(hits[0] if by > 0 else hits[-1])
        at = end if by > 0 else first
    return None
