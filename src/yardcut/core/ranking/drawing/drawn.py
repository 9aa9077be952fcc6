"""What a draw comes to."""

from __future__ import annotations

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.groups import GroupKey
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet


@dataclass(frozen=True, slots=True, eq=False)
class Stratum:
    """A group of a draw: the rows it has, those it was asked for, and those drawn from it.

    Of a remainder ``drawn`` are the rows of the group that it leaves.
    """

    key: GroupKey
    label: str
    there: int
    asked: int
    drawn: int

    @property
    def is_short(self) -> bool:
        """True when it has fewer rows than it was asked for, and no row is drawn twice to make up for it."""
        return self.there < self.asked and self.drawn < self.asked


@dataclass(frozen=True, slots=True, eq=False)
class Drawn:
    """The rows a draw takes; ``notes`` for the report; ``passed_over`` rows had no value to rank by.

    ``strata`` are its groups in order of first appearance, where it has any. ``copied`` are the ids of rows drawn with
    replacement (uint32), each as often as it was drawn; ``rows`` has each once.
    """

    rows: RowSet
    notes: tuple[str, ...] = ()
    passed_over: int = 0
    strata: tuple[Stratum, ...] = ()
    copied: Array | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Quotas:
    """How many rows each group is asked for, and gives (int64, one a group)."""

    asked: Array
    given: Array
