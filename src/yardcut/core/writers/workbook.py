"""Writing a workbook (Office Open XML, ECMA-376) with one worksheet."""

from __future__ import annotations

import datetime
import re
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind

MOST_ROWS, MOST_COLUMNS, _MOST_CHARACTERS = 1_048_576, 16_384, 32_767
_MOST_EXACT = 10**15
"""Numbers of a worksheet are doubles shown with 15 digits: longer integers are written as texts."""
_FIRST_DAY = datetime.date(1900, 3, 1)
"""Before it the calendar of worksheets has a day that never was: such days are written as texts."""
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0d\x0e-\x1f\ufffe\uffff]|_(?=x[0-9A-Fa-f]{4}_)")
"""What stands as ``_xHHHH_`` in a text (ST_Xstring, 22.9.2.19), and what would be read as that."""


def write_workbook(piece: Frame, path: Path, token: CancelToken, progress: Progress) -> None:
    """Write a slice with a header. Texts are texts, whatever they begin with.

    Raises ``TargetError`` beforehand for more rows or columns than a worksheet holds, and for a text that is too long.
    """
    _check(piece)
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    sheet = book.create_sheet("slice")
    text = _text_of(sheet)
    try:
        sheet.append([text(column.name) for column in piece.columns])
        for _, vectors in piece.blocks(token, progress):
            for row in zip(*(_cells(vector, text) for vector in vectors), strict=True):
                sheet.append(row)
    except BaseException:
        sheet.close()
        sheet._writer.cleanup()  # its rows so far, in the directory of temporary files
        raise
    book.save(path)


def _check(piece: Frame) -> None:
    rows, columns = piece.rows.count + 1, len(piece.columns)
    if rows > MOST_ROWS or columns > MOST_COLUMNS:
        raise TargetError(
            f"a worksheet holds {MOST_ROWS:,} rows with the header and {MOST_COLUMNS:,} columns, "
            f"and the slice has {rows - 1:,} rows and {columns:,} columns",
            mend=Mend("draw fewer rows, or write csv or parquet"),
        )


def _text_of(sheet: Any) -> Callable[[str], Any]:
    """Return what makes a cell of a text: never a formula, control codes as the standard writes them."""
    from openpyxl.cell import WriteOnlyCell

    def cell(text: str) -> Any:
        if len(text) > _MOST_CHARACTERS:
            raise TargetError(
                f"a cell of a worksheet holds {_MOST_CHARACTERS:,} characters, and a text here has {len(text):,}",
                mend=Mend("leave its column out, or write csv or parquet"),
            )
        if not text.startswith("=") and _NO_TEXT.search(text) is None:
            return text
        found = WriteOnlyCell(sheet, _NO_TEXT.sub(lambda match: f"_x{ord(match.group()):04X}_", text))
        found.data_type = "s"
        return found

    return cell


def _cells(vector: Vector, text: Callable[[str], Any]) -> Iterator[Any]:
    if not isinstance(vector, NumericVector) or vector.kind in (Kind.INSTANT, Kind.TIME):
        return (None if each is None else text(each) for each in vector.texts())
    missing = vector.missing_mask()
    numbers = vector.values.tolist()
    if missing is not None:
        for place in missing.nonzero()[0].tolist():
            numbers[place] = None
    if vector.kind in (Kind.DATE, Kind.TIMESTAMP):
        return (
            None if number is None else _day(vector.kind, number) or text(shown or "")
            for number, shown in zip(numbers, vector.texts(), strict=True)
        )
    if vector.kind is Kind.BOOLEAN:
        return (None if number is None else number != 0 for number in numbers)
    return (
        number if number is None or abs(number) < _MOST_EXACT or (isinstance(number, float) and number - number == 0)
        else text(shown or "")
        for number, shown in zip(numbers, vector.texts(), strict=True)
    )  # fmt: skip


def _day(kind: Kind, number: int) -> datetime.date | datetime.datetime | None:
    """Return a day or a moment the calendar of worksheets has to the microsecond, or ``None``."""
    if kind is Kind.DATE:
        day = datetime.date(1970, 1, 1) + datetime.timedelta(days=number)
        return day if day >= _FIRST_DAY else None
    moment = datetime.datetime(1970, 1, 1) + datetime.timedelta(microseconds=number)
    return moment if moment.date() >= _FIRST_DAY and not moment.microsecond else None


def count_rows(path: Path) -> int:
    """Read the worksheet back and count its rows, the header apart. Rows without any value count too."""
    count, tail = 0, b""
    with zipfile.ZipFile(path) as packed, packed.open("xl/worksheets/sheet1.xml") as sheet:
        while chunk := sheet.read(1 << 20):
            both = tail + chunk
            count += both.count(b"<row ") + both.count(b"<row>")
            tail = both[-4:]
    return count - 1
