"""The question where to go: to a row by its number, or a column by part of its name."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.tui.main.asking import Meaning, Question

if TYPE_CHECKING:
    from yardcut.tui.widgets.grid.grid import Grid

_MOST_ROW_DIGITS = 19


def go_to(grid: Grid) -> Question:
    """Return the question; what a text means is looked up in the rows the grid shows when it is asked."""
    step = [0]

    def names() -> list[str]:
        return [column.name for column in grid.source.columns]

    def meant(text: str) -> tuple[int | None, int | None, int]:
        text = text.strip()
        digits = text.replace(",", "")
        if digits.isdecimal() and len(digits) < _MOST_ROW_DIGITS:
            return int(digits) - 1, None, 1
        found = columns_by_part(text, names())
        return None, found[step[0] % len(found)] if found else None, len(found)

    def means(text: str) -> Meaning:
        row, column, matches = meant(text)
        source = grid.source
        if row is not None:
            good = 0 <= row < source.row_count
            there = f"row {row + 1:,} of {source.row_count:,}" if good else f"there are {source.row_count:,} rows"
            return Meaning(there, good)
        if column is not None:
            found = source.columns[column]
            more = f"   ({step[0] % matches + 1} of {matches}; ↓ the next)" if matches > 1 else ""
            return Meaning(f"the column {found.name}, {found.kind}, number {found.number}{more}", good=True)
        if not text.strip():
            return Meaning("a row by its number, or a column by part of its name")
        return Meaning("no column has that in its name")

    def go(text: str) -> None:
        row, column, _ = meant(text)
        grid.go_to(row, column)

    def again(by: int) -> None:
        step[0] += by

    def options(text: str) -> list[str]:
        return [name for name in names() if text.casefold() in name.casefold()]

    return Question("go to ▸", "", means, go, options=options, again=again)


def columns_by_part(text: str, names: list[str]) -> list[int]:
    """Return the places of the columns whose name starts with a text, then of those that have it in them."""
    wanted = text.casefold()
    if not wanted:
        return []
    starts = [place for place, name in enumerate(names) if name.casefold().startswith(wanted)]
    return starts + [place for place, name in enumerate(names) if wanted in name.casefold() and place not in starts]
