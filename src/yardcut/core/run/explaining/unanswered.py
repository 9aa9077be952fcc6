"""Operations without an answer: a division by zero, an overflow. The row gets no value, and is counted."""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.expressions.absence import Absence, absences
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.language.meaning.bound_parts import unwrapped
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.plan_parts import parts_within
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Span

Counts = dict[Absence, int]
"""In how many rows each reason holds."""


def unanswered(result: LineResult, runner: Runner, token: CancelToken) -> tuple[str, ...]:
    """Say how many of the rows that reach a line have no answer to an operation in it, though all parts have values."""
    body = result.line.bound.body if result.line.bound is not None else None
    if isinstance(body, BoundMake):
        values = tuple(dict.fromkeys(unwrapped(column.value) for column in body.made))
    else:
        values = tuple(dict.fromkeys(_computed(body)))
    found: Counts = {}
    beyond = tuple(dict.fromkeys(why for value in (body.made if isinstance(body, BoundMake) else (body,))
                                 for why in _said_of_all(value)))  # fmt: skip
    for counts in absence_counts(values, result.before.rows, runner.over(result.before.table), token):
        for reason, count in counts.items():
            if reason.is_unanswered:
                found[reason] = max(count, found.get(reason, 0))
    return beyond + tuple(
        f"{'1 row has' if count == 1 else f'{count:,} rows have'} no answer to {reason.text}, and so no value"
        for reason, count in found.items()
    )


def absence_counts(
    values: tuple[b.BoundValue, ...], rows: RowSet, runner: Runner, token: CancelToken
) -> tuple[Counts, ...]:
    """Count for each expression why rows have no value of it."""
    return runner.run(AbsenceRound(values, rows.bits), token) if values else ()


@dataclass(frozen=True, slots=True, eq=False)
class AbsenceRound(Round[tuple[Counts, ...], tuple[Counts, ...]]):
    """Counts the members without a value of some expressions, by reason."""

    values: tuple[b.BoundValue, ...]
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> tuple[Counts, ...]:
        """Count one part."""
        window = Span(table, part.first_row, part.end_row)
        among = None if self.members is None else bit.unpack(self.members, part.first_row, part.end_row)
        return tuple(
            {
                reason: int(np.count_nonzero(mask if among is None else mask & among))
                for reason, mask in absences(value, window).items()
            }
            for value in self.values
        )

    def merge(self, one: tuple[Counts, ...], other: tuple[Counts, ...]) -> tuple[Counts, ...]:
        """Add."""
        return tuple(
            {reason: first.get(reason, 0) + second.get(reason, 0) for reason in {**first, **second}}
            for first, second in zip(one, other, strict=True)
        )

    def finish(self, state: tuple[Counts, ...]) -> tuple[Counts, ...]:
        """Leave out what holds nowhere; the most frequent reason first."""
        return tuple(
            dict(sorted(((reason, count) for reason, count in counts.items() if count),
                        key=lambda pair: (-pair[1], pair[0].text)))
            for counts in state
        )  # fmt: skip


def _said_of_all(plan: object) -> list[str]:
    """Return what is to be said of values of all rows that a body, or a column it makes, speaks of."""
    if isinstance(plan, b.NoValue):
        return [plan.why] * bool(plan.why)
    if isinstance(plan, b.ShownColumn):
        return _said_of_all(unwrapped(plan.value))
    if isinstance(plan, b.Made | BoundFrom):
        return []
    return [why for part in parts_within(plan) for why in _said_of_all(part)]


def _computed(plan: object) -> list[b.BoundValue]:
    """Return the values with an operation in them that a line's body speaks of, the outermost of each.

    Those of made columns belong to the line that made them, those of another cut to its own lines.
    """
    if isinstance(plan, b.Operation | b.Case):
        return [plan]
    if isinstance(plan, b.Made | BoundFrom):
        return []
    return [value for part in parts_within(plan) for value in _computed(part)]
