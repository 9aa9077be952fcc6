"""Totals and notes below a table: which rows at the end of a file are none of the table. Plain Python."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from yardcut.core.sources.guessing import NeverNumericError, convert
from yardcut.core.sources.headers import fits_below, stands_out, typed_columns
from yardcut.core.sources.layout import Row
from yardcut.core.values.kinds import Kind

MOST_FOOTER_ROWS = 40
_NEAR = 5
_LEAST_ROWS = 3
_TOTALS = re.compile(r"\W*((grand |sub-?|over)?\s?totals?|sums?|averages?|summe|gesamt\w*|insgesamt)\b", re.IGNORECASE)
_NOTES = re.compile(
    r"\W*((notes?|remarks?|source|legend)\s*:|(notes?|remarks?)\W*$|end (of|-|–)|end\W*$"
    r"|(printed|generated|created|exported|made) (on|by|at)\b)|\*+\s",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class _Table:
    """What the rows of a table have in common: width, kinds of columns, how many cells are usually filled."""

    rows: Sequence[Row]
    width: int
    typed: Mapping[int, Kind]
    marks: str
    filled: int

    def has(self, row: Row) -> bool:
        return len(row.cells) == self.width


def footer_start(rows: Sequence[Row], width: int, marks: str) -> int:
    """Return how many of some rows, which end a file, belong to the table of a width; totals and notes come behind.

    A row of the table's width is a footer only where it says so (a total, a note) and has fewer values than the table's
    rows, stands behind a blank row, or holds the sum of a column; or where it has one cell of words alone.
    """
    if width <= 1:
        return len(rows)
    whole = [row for row in rows if len(row.cells) == width]
    if len(whole) < _LEAST_ROWS:
        return len(rows)
    typed = typed_columns([row.cells for row in whole[: max(1, len(whole) - 3)]], marks)
    filled = Counter(row.filled for row in whole).most_common(1)[0][0]
    table = _Table(rows, width, typed, marks, filled)
    end = len(rows)
    for place in range(len(rows) - 1, max(0, len(rows) - MOST_FOOTER_ROWS - 1), -1):
        if _is_footer(table, place):
            end = place
        elif table.has(rows[place]):
            break
    return end


def _is_footer(table: _Table, place: int) -> bool:
    row = table.rows[place]
    first = next((cell for cell in row.cells if cell.strip()), "")
    said = bool(_TOTALS.match(first) or _NOTES.match(first))
    if not table.has(row):
        return row.filled <= 1 or said
    behind_a_gap = any(each.gap for each in table.rows[max(1, place - _NEAR) : place + 1])
    fewer = row.filled < table.filled
    if row.filled <= 1 < table.filled and table.width > 2 and not fits_below(row.cells, table.typed, table.marks):
        return said or behind_a_gap or (" " in first.strip() and not _has_sentences(table, place))
    if said and row.filled < table.width and (behind_a_gap or fewer):
        return True
    if _TOTALS.match(first) and (behind_a_gap or _is_sum(table, place)):
        return True
    return behind_a_gap and stands_out(row.cells, table.typed, table.marks)


def _has_sentences(table: _Table, place: int) -> bool:
    """Tell whether the column of a row's only cell has texts of several words above."""
    column = next(at for at, cell in enumerate(table.rows[place].cells) if cell.strip())
    return any(" " in row.cells[column].strip() for row in table.rows[:place] if table.has(row) and row.filled > 1)


def _is_sum(table: _Table, place: int) -> bool:
    """Tell whether a row holds the sum of a column above it."""
    for column in table.typed:
        values = [_number(row.cells[column], table.marks) for row in table.rows[:place] if table.has(row)]
        present = [value for value in values if value is not None]
        total = _number(table.rows[place].cells[column], table.marks)
        if len(present) > 1 and total is not None and abs(sum(present) - total) <= 1e-9 * max(1.0, abs(total)):
            return True
    return False


def _number(cell: str, marks: str) -> float | None:
    try:
        value = convert([cell], Kind.NUMBER, marks).values[0]
    except NeverNumericError:
        return None
    return None if value is None else float(value)
