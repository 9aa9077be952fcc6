"""Telling header rows from data: what stands above typed columns and is not of their kind."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from yardcut.core.sources.kinds.guessing_kinds import NeverNumericError, convert, guess_kind
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

_BODY_ROWS = 40
_MOST_COLUMNS = 300


def typed_columns(rows: Sequence[Sequence[str]], marks: str = ".") -> dict[int, Kind]:
    """Return the places of the columns that hold anything but text in the first of some rows, and their kinds.

    Of very many columns the first few hundred are looked at: they tell a header from its rows.
    """
    some = rows[:_BODY_ROWS]
    kinds = {
        place: guess_kind((_value(row[place]) for row in some), marks)
        for place in range(min(min(map(len, some), default=0), _MOST_COLUMNS))
    }
    return {place: kind for place, kind in kinds.items() if kind is not None and kind is not Kind.TEXT}


def fits_below(cells: Sequence[str], typed: Mapping[int, Kind], marks: str = ".") -> bool:
    """Tell whether a row could be one of a table: values or nothing in all typed columns, a value in one at least."""
    return all(_fits(cells[place], kind, marks) for place, kind in typed.items()) and any(
        _value(cells[place]) is not None for place in typed
    )


def stands_out(cells: Sequence[str], typed: Mapping[int, Kind], marks: str = ".") -> bool:
    """Tell whether a row is none of the table's for sure: it has words, and no value, in all typed columns."""
    return bool(typed) and all(
        place < len(cells) and _value(cells[place]) is not None and not _fits(cells[place], kind, marks)
        for place, kind in typed.items()
    )


def header_rows(records: Sequence[list[str]], marks: str = ".") -> int:
    """Guess how many header rows a table has: 0, 1 or 2.

    None when the first row fits the columns' kinds as the rows below do; two when the second row has words in every
    column whose rows below are numbers or days, of which there are several. Texts alone tell nothing: then it is one.
    """
    if len(records) < 2:
        return 1
    width = len(records[0])
    body = [record for record in records[1 : _BODY_ROWS + 1] if len(record) == width]
    if not body:
        return 1
    typed = typed_columns(body[1:] if len(body) > 2 else body, marks)
    if not typed:
        return 1
    if fits_below(records[0], typed, marks):
        return 0
    second = body[0]
    if (
        len(body) > 2
        and len(typed) > 1
        and stands_out(second, typed, marks)
        and all(not _value(cell) or not cell.strip()[:1].isdigit() for cell in second)
    ):
        return 2
    return 1


def _value(cell: str) -> str | None:
    return None if cell in MISSING_TEXTS or not cell.strip() else cell


def _fits(cell: str, kind: Kind, marks: str) -> bool:
    if _value(cell) is None:
        return True
    try:
        return not convert([cell], kind, marks).unfit
    except NeverNumericError:
        return False


def joined_names(rows: Sequence[Sequence[str]]) -> list[str]:
    """Join the cells of several header rows by a blank, column by column.

    >>> joined_names([['kiln', 'kiln'], ['in', 'out']])
    ['kiln in', 'kiln out']
    """
    return [" ".join(cell.strip() for cell in cells if cell.strip()) for cells in zip(*rows, strict=True)]
