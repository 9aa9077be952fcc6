"""Operations without an answer: a division by zero, an overflow. The row gets no value, and is counted."""

from __future__ import annotations

from dataclasses import dataclass, fields, is_dataclass

import numpy as np

from yardcut.core.expressions.absence import absences
from yardcut.core.language import bound as b
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.progress import CancelToken
from yardcut.core.run.results import LineResult
from yardcut.core.scanning.parts import Part
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.window import Span


def unanswered(result: LineResult, runner: Runner, token: CancelToken) -> tuple[str, ...]:
    """Say how many of the rows that reach a line have no answer to an operation in it, though all parts have values."""
    body = result.line.bound.body if result.line.bound is not None else None
    if isinstance(body, BoundMake):
        values = tuple(dict.fromkeys(b.unwrapped(column.value) for column in body.made))
    else:
        values = tuple(dict.fromkeys(_computed(body)))
    if not values:
        return ()
    count = runner.run(UnansweredRound(values, result.before.rows.bits), token)
    rows = "1 row has" if count == 1 else f"{count:,} rows have"
    return (f"{rows} no answer to an operation in this line, and so no value",) if count else ()


@dataclass(frozen=True, slots=True, eq=False)
class UnansweredRound(Round[int, int]):
    """Counts the members for which an operation in one of some values has no answer, and that value is none."""

    values: tuple[b.BoundValue, ...]
    members: Array | None

    def scan(self, table: Table, part: Part) -> int:
        """Count one part."""
        window = Span(table, part.first_row, part.end_row)
        found = np.zeros(part.rows, dtype=np.bool_)
        for value in self.values:
            for reason, mask in absences(value, window).items():
                if reason.is_unanswered:
                    found |= mask
        if self.members is not None:
            found &= bit.unpack(self.members, part.first_row, part.end_row)
        return int(np.count_nonzero(found))

    def merge(self, one: int, other: int) -> int:
        """Add."""
        return one + other

    def finish(self, state: int) -> int:
        """Return the sum."""
        return state


def _computed(plan: object) -> list[b.BoundValue]:
    """Return the values with an operation in them that a line's body speaks of, the outermost of each.

    Those of made columns belong to the line that made them.
    """
    if isinstance(plan, b.Operation | b.Case):
        return [plan]
    if isinstance(plan, b.Made):
        return []
    if isinstance(plan, tuple):
        return [value for part in plan for value in _computed(part)]
    if is_dataclass(plan):
        return [value for part in fields(plan) for value in _computed(getattr(plan, part.name))]
    return []
