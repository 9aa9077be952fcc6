"""The process in which workbooks are read: ``python -m`` this module, a question as JSON its only argument.

The package that reads them takes memory for all that a file claims to hold, and ends its process where there is none
(a few kilobytes can claim 17 billion cells). So it has a process of its own, with a limit. What it finds goes to
standard output as pickled tuples: a word, and what belongs to it.
"""

from __future__ import annotations

import contextlib
import json
import pickle
import resource
import sys
from typing import Any, BinaryIO

ROWS_AT_ONCE = 2000
NAMES, AREA, SHEET, ROWS, FAILED = "names", "area", "sheet", "rows", "failed"
NOTHING = ("", None)


def main() -> None:
    """Answer the question."""
    asked = json.loads(sys.argv[1])
    _, most = resource.getrlimit(resource.RLIMIT_AS)
    limit = asked["limit"] if most == resource.RLIM_INFINITY else min(asked["limit"], most)
    with contextlib.suppress(ValueError, OSError):  # some systems have no such limit
        resource.setrlimit(resource.RLIMIT_AS, (limit, most))
    target = sys.stdout.buffer
    try:
        (_areas if asked["what"] == "areas" else _sparse if asked["what"] == "sparse" else _rows)(asked, target)
    except BaseException as error:  # a panic of the package's is no Exception
        _say(target, FAILED, "" if isinstance(error, MemoryError) else str(error) or repr(error))
        sys.exit(1)


def _say(target: BinaryIO, word: str, content: Any) -> None:
    pickle.dump((word, content), target)
    target.flush()


def _areas(asked: dict[str, Any], target: BinaryIO) -> None:
    """Tell the names of all worksheets, and of each where its cells stand."""
    import python_calamine

    book = python_calamine.CalamineWorkbook.from_path(asked["path"])
    _say(target, NAMES, list(book.sheet_names))
    for name in book.sheet_names:
        sheet = book.get_sheet_by_name(name)
        _say(target, AREA, (name, sheet.start, sheet.end))


def _rows(asked: dict[str, Any], target: BinaryIO) -> None:
    """Tell the rows of the worksheets asked for, from their first cell on; of none asked for those of the first."""
    import python_calamine

    book = python_calamine.CalamineWorkbook.from_path(asked["path"])
    names = list(book.sheet_names)
    _say(target, NAMES, names)
    for name in asked["sheets"] if asked["sheets"] is not None else names:
        if name not in names:
            return
        _say(target, SHEET, name)
        sheet = book.get_sheet_by_name(name)
        top, left = sheet.start or (0, 0)
        before: list[Any] = [""] * left
        wanted = _Wanted(asked["cells"])
        some: list[list[Any]] = [wanted.of([]) for _ in range(wanted.first, min(top, wanted.end))]
        found = False
        for number, row in enumerate(sheet.iter_rows(), top):
            if not wanted.first <= number < wanted.end:
                continue
            cells = wanted.of([*before, *row])
            found = found or any(cell not in NOTHING for cell in cells)
            some.append(cells)
            if len(some) >= ROWS_AT_ONCE:
                _say(target, ROWS, some)
                some = []
        _say(target, ROWS, some)
        if found and asked["sheets"] is None:
            return


def _sparse(asked: dict[str, Any], target: BinaryIO) -> None:
    """Tell the rows of a range of cells, read as they come: memory for no more than a row of it."""
    import openpyxl

    book = openpyxl.load_workbook(asked["path"], read_only=True, data_only=True)
    _say(target, NAMES, list(book.sheetnames))
    wanted = _Wanted(asked["cells"])
    for name in asked["sheets"] if asked["sheets"] is not None else book.sheetnames[:1]:
        if name not in book.sheetnames:
            return
        _say(target, SHEET, name)
        some: list[list[Any]] = []
        rows = book[name].iter_rows(
            min_row=wanted.first + 1, max_row=wanted.end, min_col=wanted.left + 1, max_col=wanted.right,
            values_only=True,
        )  # fmt: skip
        for row in rows:
            some.append(["" if cell is None else cell for cell in row])
            if len(some) >= ROWS_AT_ONCE:
                _say(target, ROWS, some)
                some = []
        _say(target, ROWS, some)


class _Wanted:
    """The range of cells wanted: rows ``first`` to ``end``, columns ``left`` to ``right``, the ends excluded."""

    def __init__(self, cells: list[int | None]) -> None:
        top, left, bottom, right = cells
        self.first, self.left = top or 0, left or 0
        self.end = sys.maxsize if bottom is None else bottom
        self.right = right

    def of(self, row: list[Any]) -> list[Any]:
        """Return what is wanted of a row."""
        return row[self.left : self.right]


if __name__ == "__main__":
    main()
