"""The question where to go: to a row by its number, or a column by part of its name."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from yardcut.tui.main.prompting.asking import Meaning, Question

if TYPE_CHECKING:
    from yardcut.tui.widgets.grid.grid import Grid

_MOST_ROW_DIGITS = 19


class Matches:
    """The columns whose name has a text in it, and the one of them that is meant; ``names`` are asked for each time."""

    def __init__(self, names: Callable[[], list[str]]) -> None:
        self._names = names
        self._step = 0

    def again(self, by: int) -> None:
        """Mean the next one, or the one before."""
        self._step += by

    def place(self, text: str) -> int | None:
        """Return the place of the column that is meant."""
        found = columns_by_part(text, self._names())
        return found[self._step % len(found)] if found else None

    def more(self, text: str) -> str:
        """Say which of how many is meant, where there are several."""
        count = len(columns_by_part(text, self._names()))
        return f"   ({self._step % count + 1} of {count}; ↓ the next)" if count > 1 else ""

    def options(self, text: str) -> list[str]:
        """Return the names a text may be completed to."""
        return [name for name in self._names() if text.casefold() in name.casefold()]


def go_to(grid: Grid, leave: Callable[[], None]) -> Question:
    """Return the question; what a text means is looked up in the rows the grid shows when it is asked.

    ``leave`` keeps the row that a jump to another one leaves.
    """
    matches = Matches(lambda: [column.name for column in grid.source.columns])

    def row_of(text: str) -> int | None:
        digits = text.replace(",", "")
        return int(digits) - 1 if digits.isdecimal() and len(digits) < _MOST_ROW_DIGITS else None

    def means(text: str) -> Meaning:
        text = text.strip()
        row, source = row_of(text), grid.source
        if row is not None:
            good = 0 <= row < source.row_count
            there = f"row {row + 1:,} of {source.row_count:,}" if good else f"there are {source.row_count:,} rows"
            return Meaning(there, good)
        column = matches.place(text)
        if column is not None:
            found = source.columns[column]
            said = f"the column {found.name}, {found.kind}, number {found.number}{matches.more(text)}"
            return Meaning(said, good=True)
        if not text:
            return Meaning("a row by its number, or a column by part of its name")
        return Meaning("no column has that in its name")

    def go(text: str) -> None:
        row = row_of(text.strip())
        if row is not None:
            leave()
        grid.go_to(row, None if row is not None else matches.place(text.strip()))

    return Question("go to ▸", "", means, go, options=matches.options, again=matches.again)


def choose_column(lead: str, names: Sequence[str], chosen: Callable[[int], None]) -> Question:
    """Return the question which of some columns is meant."""
    matches = Matches(lambda: list(names))

    def means(text: str) -> Meaning:
        place = matches.place(text)
        if place is not None:
            return Meaning(f"the column {names[place]}{matches.more(text)}", good=True)
        return Meaning(
            "no column has that in its name" if text else f"one of {len(names):,} columns, by part of its name"
        )

    def done(text: str) -> None:
        place = matches.place(text)
        if place is not None:
            chosen(place)

    return Question(lead, "", means, done, options=matches.options, again=matches.again)


def columns_by_part(text: str, names: list[str]) -> list[int]:
    """Return the places of the columns whose name starts with a text, then of those that have it in them."""
    wanted = text.casefold()
    if not wanted:
        return []
    starts = [place for place, name in enumerate(names) if name.casefold().startswith(wanted)]
    return starts + [place for place, name in enumerate(names) if wanted in name.casefold() and place not in starts]
