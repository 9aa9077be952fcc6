"""Sample values of columns: those of a few rows next to each other that pass the cut's conditions."""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from dataclasses import replace

from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.progress import CancelToken
from yardcut.tui.desk.figured_rows import Rows

_SAMPLE_ROWS = 3
_COLUMNS_AT_ONCE = 200
Samples = dict[int, tuple[str | None, ...]]
"""The values of some columns, by number."""


class SampleRows:
    """Which rows are looked at."""

    def __init__(self, rows: Rows, columns: Sequence[ShownColumn], position: int) -> None:
        self._columns = {column.number: column for column in columns}
        self.rows = Rows(replace(rows.frame, columns=tuple(columns)), rows.fingerprint)
        self.go_to(position)

    def are_of(self, rows: Rows, columns: Sequence[ShownColumn]) -> bool:
        """Tell whether these are some of other rows, under the same columns."""
        return self.rows.fingerprint == rows.fingerprint and self._frame.columns == tuple(columns)

    @property
    def _frame(self) -> Frame:
        return self.rows.frame

    @property
    def count(self) -> int:
        """How many rows there are to choose from."""
        return self._frame.rows.count

    def label(self) -> str:
        """Say which rows they are."""
        if not self.count:
            return "no row passes"
        last = min(self.position + _SAMPLE_ROWS, self.count)
        rows = f"row {last:,}" if last == self.position + 1 else f"rows {self.position + 1:,} to {last:,}"
        return f"{rows} of {self.count:,} that pass"

    def go_to(self, position: int) -> None:
        """Look at the row at a position, or the last one there is."""
        self.position = max(0, min(position, self.count - 1))

    def step(self, by: int) -> None:
        """Look at the next rows."""
        self.position = (self.position + by) % max(1, self.count)

    def anywhere(self) -> None:
        """Look at rows by chance; nothing depends on which."""
        self.position = random.SystemRandom().randrange(max(1, self.count))

    def read(self, first: Sequence[int], token: CancelToken) -> Iterator[Samples]:
        """Yield the values of all columns, those whose numbers come ``first`` before the others.

        Among ``first`` may be columns that are none of these: the screen shows a newer list.
        """
        wanted = [number for number in first if number in self._columns]
        numbers = [*wanted, *(number for number in self._columns if number not in set(wanted))]
        places = {column.number: place for place, column in enumerate(self._frame.columns)}
        end = min(self.position + _SAMPLE_ROWS, self.count)
        for start in range(0, len(numbers), _COLUMNS_AT_ONCE):
            token.check()
            some = numbers[start : start + _COLUMNS_AT_ONCE]
            page = self._frame.page(self.position, end, [places[number] for number in some])
            yield dict(zip(some, page.cells, strict=True))
