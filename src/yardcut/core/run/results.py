"""What running a line gives."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.core.language.bound import ShownColumn
from yardcut.core.run.binding import BoundLine
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet


@dataclass(frozen=True, slots=True, eq=False)
class LineResult:
    """One line of a cut and the rows it leaves.

    ``before`` and ``rows`` are the rows that reached it and those it leaves; ``unknown_taken`` counts the rows it
    removed for want of a value, ``unknown`` marks them; ``notes`` are sentences for the report.
    """

    line: BoundLine
    before: RowSet
    rows: RowSet
    unknown_taken: int = 0
    notes: tuple[str, ...] = ()
    unknown: Array | None = None

    @property
    def taken(self) -> int:
        """How many rows the line removed."""
        return self.before.count - self.rows.count

    @property
    def shown(self) -> tuple[ShownColumn, ...]:
        """The columns as the line leaves them."""
        return self.line.scope.shown

    def offcut(self) -> RowSet:
        """Return the rows the line removed, in the order they had."""
        return self.before.without(self.rows.member_bits())
