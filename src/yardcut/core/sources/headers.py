"""Telling header rows from data: what stands above typed columns and is not of their kind."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.sources.guessing import NeverNumericError, convert, guess_kind
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

_BODY_ROWS = 40


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
    below = body[1:] if len(body) > 2 else body
    typed = {
        place: kind
        for place in range(width)
        if (kind := guess_kind((_value(record[place]) for record in below), marks)) not in (None, Kind.TEXT)
    }
    if not typed:
        return 1
    if all(_fits(records[0][place], kind, marks) for place, kind in typed.items() if kind is not None) and any(
        _value(records[0][place]) is not None for place in typed
    ):
        return 0
    second = body[0]
    if (
        len(body) > 2
        and len(typed) > 1
        and all(_value(second[place]) is not None for place in typed)
        and not any(
            _fits(second[place], kind, marks, missing=False) for place, kind in typed.items() if kind is not None
        )
        and all(not _value(cell) or not cell.strip()[:1].isdigit() for cell in second)
    ):
        return 2
    return 1


def _value(cell: str) -> str | None:
    return None if cell in MISSING_TEXTS or not cell.strip() else cell


def _fits(cell: str, kind: Kind, marks: str, *, missing: bool = True) -> bool:
    if _value(cell) is None:
        return missing
    try:
        return not convert([cell], kind, marks).unfit
    except NeverNumericError:
        return False


def joined_names(rows: Sequence[Sequence[str]]) -> list[str]:
    """Join the cells of several header rows by a blank, column by column."""
    return [" ".join(cell.strip() for cell in cells if cell.strip()) for cells in zip(*rows, strict=True)]
