"""What was found for rows in a second table, and what was asked for and is not there."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_second import Listed, Matching, OtherRows
from yardcut.core.matching.key_index import KeyIndex
from yardcut.core.matching.latest_rows import LatestRows
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import Vector, taken_from
from yardcut.core.table.window import Scatter

_ROWS_AT_ONCE = 1 << 18
SHOWN_KEYS = 3
"""Of keys that are not there, or there several times."""
Settled = Callable[[b.BoundValue], b.BoundValue]
"""Puts what became known into a value over a second table's rows."""
RowsOf = Callable[[OtherRows], tuple[Frame, Settled]]
"""Gives the rows of a second table: those of a cut by running it."""


@dataclass(frozen=True, eq=False)
class Indexed:
    """A second table by its keys: ``window`` are its rows, in their order; ``keys`` the values in their places."""

    frame: Frame
    window: Scatter
    keys: tuple[Vector, ...]
    index: KeyIndex
    latest: LatestRows | None
    settled: Settled

    @property
    def size_bytes(self) -> int:
        """About the memory it takes."""
        return 64 + 40 * len(self.window)

    @property
    def first_rows(self) -> Array:
        """For each number a row can be given: the row of the second table that is found, by its place."""
        return self.index.first_rows if self.latest is None else np.arange(len(self.window))


def _counted(numbers: Array, nothing: int) -> Array:
    """Count how often each number up to ``nothing`` + 1 stands (int64).

    Some rows at a time, since counting makes wide copies; most rows may find nothing, and are counted as they are.
    """
    found = np.zeros(nothing + 2, np.int64)
    step = max(_ROWS_AT_ONCE, nothing)
    for start in range(0, len(numbers), step):
        some = numbers[start : start + step]
        keys = some[some < nothing]
        found += np.bincount(keys, minlength=len(found))
        found[nothing] += np.count_nonzero(some == nothing)
        found[nothing + 1] += np.count_nonzero(some > nothing)
    return found


@dataclass(frozen=True, eq=False)
class Matched:
    """What the rows of a table find in a second one: ``numbers`` (uint32, one a row of the table) as of
    :class:`MatchRound`, from ``nothing`` on those of rows that find none; ``counts`` how many rows have each, where
    these are few.
    """

    indexed: Indexed
    numbers: Array
    nothing: int
    table: Table
    counts: Array | None = None

    @property
    def size_bytes(self) -> int:
        """The memory the numbers take."""
        return int(self.numbers.nbytes)

    def looked_up(self, value: b.SecondValue, rows: RowSet) -> LookedUp:
        """Count what the rows that reach a line find."""
        nothing, index, met = self.nothing, self.indexed.index, self.counts
        if met is None or rows.count != self.table.rows:
            met = _counted(self._of_rows(rows), nothing)
        several, not_met = 0, np.zeros(0, np.int64)
        if self.indexed.latest is None:
            several = int(met[:nothing][index.counts > 1].sum())
            not_met = np.sort(index.first_rows[met[:nothing] == 0])
        return LookedUp(
            value.matching, isinstance(value, Listed), int(met[:nothing].sum()), int(met[nothing]),
            int(met[nothing + 1]), several, len(index), not_met, int((index.counts > 1).sum()), index.without,
            self.indexed, self.numbers, nothing, self.table, rows,
        )  # fmt: skip

    def rows_of_every_match(self, rows: RowSet) -> int:
        """Count the rows there are when each stands once for each row it finds, and once where it finds none."""
        return int(np.append(self.indexed.index.counts, [1, 1])[self._of_rows(rows)].sum())

    def _of_rows(self, rows: RowSet) -> Array:
        """Return the numbers of some rows, in their order."""
        return self.numbers if rows.bits is None and rows.order is None else self.numbers[rows.ids(0, rows.count)]


@dataclass(frozen=True, eq=False)
class LookedUp:
    """What a line found in a second table, for the rows that reach it.

    ``matched``, ``unmatched`` and ``without`` count rows that find a row there, find none, and have no value to look
    for; ``several`` rows that find more than one. ``not_met`` are the rows there (by place) whose key no row has, of
    ``keys`` different ones; ``twice`` counts keys that stand there several times, ``empty`` rows there without a key.
    ``numbers`` are those of all rows of the ``table``, ``nothing`` that of one that finds none; ``rows`` those that
    reached the line.
    """

    matching: Matching
    is_list: bool
    matched: int
    unmatched: int
    without: int
    several: int
    keys: int
    not_met: Array
    twice: int
    empty: int
    indexed: Indexed
    numbers: Array
    nothing: int
    table: Table
    rows: RowSet

    @property
    def is_short(self) -> bool:
        """True where something was looked for and not found: asked for and not there, or a row without a match."""
        return len(self.not_met) > 0 if self.is_list else self.unmatched > 0

    def texts(self, places: Array) -> list[tuple[str, ...]]:
        """Return the keys of some rows there as texts."""
        columns = [taken_from(key, places).texts() for key in self.indexed.keys]
        return [tuple("" if text is None else text for text in key) for key in zip(*columns, strict=True)]

    def notes(self) -> tuple[str, ...]:
        """Say it in sentences."""
        said = self.matching.other.said
        if self.is_list:
            notes = [f"{self.keys - len(self.not_met):,} of {_values(self.keys)} in {said} are there"]
            if len(self.not_met):
                few = [" ".join(key) for key in self.texts(self.not_met[:SHOWN_KEYS])]
                more = len(self.not_met) - len(few)
                rest = f" and {more:,} more" if more else ""
                notes.append(f"asked for and not there: {', '.join(few)}{rest}")
            if self.twice:
                notes.append(f"{_values(self.twice)} asked for more than once")
        else:
            notes = [f"{plural_rows(self.matched)} with a match in {said}, {self.unmatched:,} without"]
            if self.several:
                notes.append(f"{plural_rows(self.several)} with several matches")
        if self.without:
            notes.append(f"{plural_rows(self.without)} without a value to look for")
        if self.empty:
            notes.append(f"{plural_rows(self.empty)} of {said} without a value: they are never found")
        return (*notes, *self.matching.other.notes)


def plural_rows(count: int) -> str:
    """Say how many rows."""
    return f"{count:,} {'row' if count == 1 else 'rows'}"


def _values(count: int) -> str:
    return f"{count:,} {'value' if count == 1 else 'values'}"
