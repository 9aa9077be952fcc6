"""Totals and notes below a table: which rows at the end of a file are none of the table. Plain Python."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.form.headers import stands_out, typed_columns
from yardcut.core.sources.form.table_layout import Row
from yardcut.core.sources.kinds.decorated import decorated_number
from yardcut.core.sources.kinds.guessing_kinds import NeverNumericError, convert
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

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
    rows, stands behind a blank row, or holds the sum of a column; or where it has one cell of words alone. A total has
    numbers besides its label and nothing else; a word that stands in the column above is a value.
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
    column = next((at for at, cell in enumerate(row.cells) if _is_there(cell)), 0)
    label = row.cells[column].strip()
    is_total, is_note = bool(_TOTALS.match(label)), bool(_NOTES.match(label))
    if not table.has(row):
        return row.filled <= 1 or is_total or is_note
    column_above = [each.cells[column].strip() for each in table.rows[:place] if table.has(each)]
    if label in column_above or not label:
        return False  # a word of the column is a value
    filled = sum(map(_is_there, row.cells))
    behind_a_gap = any(each.gap for each in table.rows[max(1, place - _NEAR) : place + 1])
    values = [at for at in table.typed if at != column and _is_there(row.cells[at])]
    if filled == 1 < table.filled and table.width > 2 and column not in table.typed:
        is_sentence = " " in label and any(column_above) and not any(" " in cell for cell in column_above)
        return column == 0 and (is_total or is_note or is_sentence)
    if is_note and column == 0 and not values and filled < table.width:
        return behind_a_gap or filled < table.filled
    if is_total and not _has_more_words(table, row, column):
        return behind_a_gap or filled < table.filled or _is_sum(table, place)
    return behind_a_gap and stands_out(row.cells, table.typed, table.marks)


def _is_there(cell: str) -> bool:
    return bool(cell.strip()) and cell not in MISSING_TEXTS


def _has_more_words(table: _Table, row: Row, label: int) -> bool:
    """Tell whether a row has days, or texts besides its label, which no total has."""
    return any(
        _is_there(cell) and at != label and decorated_number(cell, table.marks) is None
        for at, cell in enumerate(row.cells)
    )


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
