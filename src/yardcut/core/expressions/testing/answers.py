"""Answers in three-valued logic as bits: true, false, or unknown for want of a value (ISO/IEC 9075-2, 8.21)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array


@dataclass(frozen=True, slots=True, eq=False)
class Answers:
    """The answers for ``rows`` rows, one bit each.

    ``true`` marks where the answer is true, ``unknown`` where it is neither true nor false (``None``: nowhere). What
    the last byte has over is zero in both.
    """

    rows: int
    true: Array
    unknown: Array | None = None

    @property
    def false(self) -> Array:
        """Return the bits of rows whose answer is false."""
        return bit.ones(self.rows) & ~self.possible()

    @property
    def nbytes(self) -> int:
        """The memory these bits take."""
        return self.true.nbytes + (0 if self.unknown is None else self.unknown.nbytes)

    def possible(self) -> Array:
        """Return the bits of rows whose answer is not false."""
        return self.true if self.unknown is None else self.true | self.unknown

    def inverse(self) -> Answers:
        """Return NOT of these answers."""
        return Answers(self.rows, self.false, self.unknown)


def of_test(true: Array, unknown: Array | None) -> Answers:
    """Return answers from booleans and the bits of rows without an answer, where ``true`` is arbitrary."""
    bits = bit.pack(true)
    if unknown is not None:
        bits &= ~unknown
    return Answers(len(true), bits, unknown)


def all_of(items: Sequence[Answers]) -> Answers:
    """Return AND of some answers: false where one is false, true where all are true."""
    true = items[0].true
    for item in items[1:]:
        true = true & item.true
    if all(item.unknown is None for item in items):
        return Answers(items[0].rows, true)
    possible = items[0].possible()
    for item in items[1:]:
        possible = possible & item.possible()
    return Answers(items[0].rows, true, possible & ~true)


def any_of(items: Sequence[Answers]) -> Answers:
    """Return OR of some answers: true where one is true, false where all are false."""
    true = items[0].true
    for item in items[1:]:
        true = true | item.true
    gone = [item.unknown for item in items if item.unknown is not None]
    if not gone:
        return Answers(items[0].rows, true)
    unknown = gone[0]
    for other in gone[1:]:
        unknown = unknown | other
    return Answers(items[0].rows, true, unknown & ~true)


def is_truth(item: Answers, truth: bool | None) -> Answers:
    """Return where the answer is true, false or unknown (``None``); never unknown itself."""
    if truth is None:
        nowhere = np.zeros_like(item.true)
        return Answers(item.rows, nowhere if item.unknown is None else item.unknown)
    return Answers(item.rows, item.true if truth else item.false)


def joined(pieces: Sequence[Answers]) -> Answers:
    """Put the answers of consecutive rows together; all but the last are of a multiple of 8 rows."""
    true = np.concatenate([piece.true for piece in pieces])
    rows = sum(piece.rows for piece in pieces)
    if all(piece.unknown is None for piece in pieces):
        return Answers(rows, true)
    gone = [np.zeros_like(piece.true) if piece.unknown is None else piece.unknown for piece in pieces]
    return Answers(rows, true, np.concatenate(gone))
