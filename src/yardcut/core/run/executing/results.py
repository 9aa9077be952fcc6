"""What running a line gives."""

from __future__ import annotations

from functools import cached_property

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.drawing.drawn import Stratum
from yardcut.core.run.executing.bound_lines import BoundLine
from yardcut.core.run.executing.looked_up import LookedUp
from yardcut.core.run.executing.works.work import Worked
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet


@dataclass(frozen=True, eq=False)
class LineResult:
    """One line of a cut and the rows it leaves.

    ``before`` and ``frame`` are what reached it and what it leaves. ``fingerprint`` tells the rows it leaves, and their
    order, from those of any other line of any cut; ``before_fingerprint`` those that reached it. ``looked_up``
    is what these found in second tables.
    """

    line: BoundLine
    before: Frame
    frame: Frame
    worked: Worked
    fingerprint: str
    before_fingerprint: str
    looked_up: tuple[LookedUp, ...] = ()

    @property
    def rows(self) -> RowSet:
        """The rows it leaves."""
        return self.frame.rows

    @property
    def shown(self) -> tuple[ShownColumn, ...]:
        """The columns as it leaves them."""
        return self.frame.columns

    @property
    def unknown_taken(self) -> int:
        """How many rows it removed for want of a value."""
        return self.worked.unknown_taken

    @property
    def unknown(self) -> Array | None:
        """The rows it removed for want of a value, one bit a row of the table; ``None``: none."""
        return self.worked.unknown

    @property
    def notes(self) -> tuple[str, ...]:
        """Sentences for the report."""
        return (*self.worked.notes, *(note for looked in self.looked_up for note in looked.notes()))

    @property
    def strata(self) -> tuple[Stratum, ...]:
        """The groups of a draw."""
        return self.worked.strata

    @property
    def starts_anew(self) -> bool:
        """True when neither rows nor columns that it leaves are those it met: they are put together from them."""
        return self.line.bound is not None and self.line.bound.body.starts_anew

    @property
    def taken(self) -> int:
        """How many rows the line removed."""
        return self.before.rows.count - self.members.count

    @property
    def members(self) -> RowSet:
        """The rows it leaves, as rows of the table that reached it: each once, however often it was drawn."""
        return self.rows if self.worked.members is None else self.worked.members

    @cached_property
    def offcut(self) -> Frame:
        """The rows the line removed, in the order they had, with the columns that reached it."""
        return self.before.with_rows(self.before.rows.without(self.members.member_bits()))
