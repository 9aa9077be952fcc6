"""Writing a workbook (Office Open XML, ECMA-376) with one worksheet."""

from __future__ import annotations

import contextlib
import datetime
import io
import re
import zipfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import IO, Any

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.save_options import HEADER, TABLE
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.plans import Plan

SHEET, _MOST_NAME = "slice", 31
MOST_ROWS, MOST_COLUMNS, _MOST_CHARACTERS = 1_048_576, 16_384, 32_767
_MOST_EXACT = 10**15
"""Numbers of a worksheet are doubles shown with 15 digits: longer integers are written as texts."""
_PROPERTIES, _MOST_PROPERTIES = "docProps/core.xml", 1 << 24
_FIRST_DAY = datetime.date(1900, 3, 1)
"""Before it the calendar of worksheets has a day that never was: such days are written as texts."""
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0d\x0e-\x1f\ufffe\uffff]|_(?=x[0-9A-Fa-f]{4}_)")
"""What stands as ``_xHHHH_`` in a text (ST_Xstring, 22.9.2.19), and what would be read as that."""


def write_workbook(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice with a header. Texts are texts, whatever they begin with.

    Raises ``TargetError`` beforehand for more rows or columns than a worksheet holds, and for a text that is too long.
    """
    write_worksheets(
        [(plan.options[TABLE] or SHEET, piece)],
        path,
        token,
        progress,
        header=plan.options[HEADER],
        carries=plan.carries,
    )


def write_worksheets(
    pieces: Sequence[tuple[str, Frame]], path: Path, token: CancelToken, progress: Progress, *, header: bool = True,
    carries: str = "",
) -> None:  # fmt: skip
    """Write slices as worksheets of one workbook, each under its name. Raises as :func:`write_workbook`."""
    for name, piece in pieces:
        _check(piece)
        _check_name(name)
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    if carries and _NO_TEXT.search(carries) is None:  # a control code cannot stand there
        book.properties.description = carries
    try:
        for name, piece in pieces:
            sheet = book.create_sheet(name)
            text = _text_of(sheet)
            if header:
                sheet.append([text(column.name) for column in piece.columns])
            for _, vectors in piece.blocks(token, progress):
                for row in zip(*(_cells(vector, text) for vector in vectors), strict=True):
                    sheet.append(row)
        with open(path, "wb") as file:
            book.save(_Target(file))
    except BaseException:
        for sheet in book.worksheets:
            # its rows so far, in the directory of temporary files; one that was packed already refuses to be closed
            for tidy in (sheet.close, sheet._writer.cleanup):
                with contextlib.suppress(Exception):
                    tidy()
        raise


class _Target(io.RawIOBase):
    """What a workbook is packed into. Once the disk takes no more it takes nothing, and says so once.

    A packer that failed still writes its last entries when it goes, to nobody's use and with a second error.
    """

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        self._failed = False

    def writable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        if not self._failed:
            try:
                self._file.write(data)
                self._file.flush()
            except OSError:
                self._failed = True
                raise
        return len(data)

    def seek(self, offset: int, whence: int = 0) -> int:
        return 0 if self._failed else self._file.seek(offset, whence)

    def tell(self) -> int:
        return 0 if self._failed else self._file.tell()


def _check_name(name: str) -> None:
    """Raise ``TargetError`` for what no worksheet can be called (ECMA-376, 18.2.19, and what programs allow)."""
    if not 0 < len(name) <= _MOST_NAME or set(name) & set("[]:*?/\\") or name[0] == "'" or name[-1] == "'":
        raise TargetError(
            f"no worksheet can be called {quote_name(name)}",
            mend=Mend(f"up to {_MOST_NAME} characters, none of [ ] : * ? / \\: table 'oak'"),
        )


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


def count_rows(path: Path, plan: Plan) -> int:
    """Read the worksheet back and count its rows, the header apart. Rows without any value count too."""
    count, tail = 0, b""
    with zipfile.ZipFile(path) as packed, packed.open(_part_of(packed, plan.options[TABLE] or SHEET)) as sheet:
        while chunk := sheet.read(1 << 20):
            both = tail + chunk
            count += both.count(b"<row ") + both.count(b"<row>")
            tail = both[-4:]
    return count - plan.options[HEADER]


def carried_list(path: Path) -> str | None:
    """Return the list that a workbook carries: its description (ECMA-376 part 2, 11)."""
    from xml.etree import ElementTree

    with zipfile.ZipFile(path) as packed:
        if _PROPERTIES not in packed.namelist() or packed.getinfo(_PROPERTIES).file_size > _MOST_PROPERTIES:
            return None
        found = ElementTree.fromstring(packed.read(_PROPERTIES)).find("{http://purl.org/dc/elements/1.1/}description")
    return found.text if found is not None and (found.text or "").startswith("yardcut ") else None


def _part_of(packed: zipfile.ZipFile, name: str) -> str:
    """Return where a worksheet stands in a workbook. Raises ``KeyError``."""
    from xml.etree import ElementTree

    book = ElementTree.fromstring(packed.read("xl/workbook.xml"))
    sheets = [node.attrib["name"] for node in book.iter() if node.tag.endswith("}sheet")]
    return f"xl/worksheets/sheet{sheets.index(name) + 1}.xml"
