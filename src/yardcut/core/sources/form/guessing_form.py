"""Guessing the form of a delimited file from its first bytes, judged by the whole beginning. Plain Python."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.form.encodings import check_encoding, decode_head, guess_encoding
from yardcut.core.sources.form.headers import header_rows
from yardcut.core.sources.form.table_layout import Row, is_typed, table_start, usual_width
from yardcut.core.sources.spec import FormLine

_DELIMITERS = (",", ";", "\t", "|")
_SAMPLE_RECORDS = 200
_ENOUGH_CELLS, _LEAST_ROWS = 2000, 12
_MOST_ROWS = 0.8
"""Where so many rows are of one width they are a table; where fewer are, numbers and days below one another tell it."""
_GROUPED = {
    # several groups, or one group and a decimal part: 1.234 alone may be either
    ".": re.compile(r"[+-]?\d{1,3}((\.\d{3}){2,}(,\d+)?|\.\d{3},\d+)\Z"),
    ",": re.compile(r"[+-]?\d{1,3}((,\d{3}){2,}(\.\d+)?|,\d{3}\.\d+)\Z"),
}
_DRESSED = re.compile(r"[^\w.,+-]+([+-]?\d[\d.,]*)[^\w.,]*\Z|([+-]?\d[\d.,]*)[^\w.,]+\Z")
_EITHER = re.compile(r"[+-]?[1-9]\d{0,2},\d{3}\Z")
_NOTHING_SAID = FormLine()
_COMMA_NUMBER = re.compile(r"[+-]?\d+,\d+\Z")
_POINT_NUMBER = re.compile(r"[+-]?\d+\.\d+\Z")


def guess_form(path: Path, head: bytes, said: FormLine = _NOTHING_SAID) -> Form:
    """Guess a delimited file's form from its first bytes; what was said of it is taken as said.

    Raises ``SourceError`` for binary files and for an encoding nobody knows.
    """
    encoding = said.encoding or guess_encoding(head, path)
    quote = said.quote or '"'
    check_encoding(encoding)
    try:
        text = decode_head(head, encoding)
    except UnicodeError as error:
        raise SourceError(f"{path} is not written in {encoding}: {error}", mend=Mend("name another encoding")) from None
    returns = "\r" in text and "\n" not in text
    if returns:
        text = text.replace("\r", "\n")
    line_ends = "crlf" if 2 * text.count("\r\n") > text.count("\n") else "lf"
    if said.skip:
        text = "".join(text.splitlines(keepends=True)[said.skip :])
    delimiter, sample = _delimiter(text, quote, said.delimiter)
    width, _ = usual_width(sample)
    comment = said.comment if said.comment is not None else _comment(sample, width)
    rows = [row for row in sample if not (comment and row.cells[0].lstrip().startswith(comment))]
    decimal, thousands = _marks([cell for row in rows[: _rows_to_look_at(width)] for cell in row.cells], delimiter)
    marks = (said.decimal or decimal) + (thousands if said.thousands is None else said.thousands)
    start = 0 if said.skip is not None or said.header == 0 else table_start(rows, width, marks)
    above = rows[start].lines_before if start else 0
    rows = rows[start:]
    ragged = bool(rows) and _is_ragged(rows, width)
    if rows and (ragged or len(rows[0].cells) > width):
        width = len(_without_end(rows[0].cells, width))
    header = header_rows([row.cells for row in _even(rows, width)], marks) if said.header is None else said.header
    return Form(
        delimiter, marks[0], encoding, quote, marks[1:], comment, above if said.skip is None else said.skip, header,
        width, ragged, said.footer, returns, line_ends,
    )  # fmt: skip


def _without_end(cells: list[str], width: int) -> list[str]:
    """Return a header without empty cells behind the table's width, which a separator at the line's end makes."""
    while len(cells) > width and not cells[-1].strip():
        cells = cells[:-1]
    return cells


def _even(rows: list[Row], width: int) -> list[Row]:
    """Return the rows of a width; the first one, which may be a header, filled up or cut to it."""
    if not rows:
        return rows
    first = rows[0].cells[:width]
    return [Row(first + [""] * (width - len(first))), *(row for row in rows[1:] if len(row.cells) == width)]


def _is_ragged(rows: list[Row], width: int) -> bool:
    """Tell whether rows end where their last value does: the header is wider than most, and no row is wider than it."""
    names = len(_without_end(rows[0].cells, width))
    return width > 1 and names > width and all(len(row.cells) <= names for row in rows[1:])


def _delimiter(text: str, quote: str, said: str | None) -> tuple[str, list[Row]]:
    """Return the delimiter that gives the most records of one width, and the records it gives.

    Where every one leaves most rows a single cell, one that stands nowhere in the text is taken, if there is one.
    """
    best, best_score = said or ",", (False, 0.0, 0)
    best_rows: list[Row] = []
    for delimiter in (said,) if said else _DELIMITERS:
        try:
            rows = list(_sample(text, delimiter, quote))
        except csv.Error:
            continue
        width, share = usual_width(rows)
        table = share >= _MOST_ROWS or is_typed(rows, width)
        score = (table, share, width) if width > 1 or said else (False, 0.0, 0)
        if score > best_score or not best_rows:
            best, best_score, best_rows = delimiter, score, rows
    if not said and not best_score[2] and any(len(row.cells) > 1 for row in best_rows):
        for delimiter in _DELIMITERS:
            if delimiter not in text:
                return delimiter, list(_sample(text, delimiter, quote))
    return best, best_rows


def _sample(text: str, delimiter: str, quote: str) -> Iterator[Row]:
    """Yield the first records that hold anything, as the rows of a layout."""
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, quotechar=quote)
    before = given = 0
    gap = False
    for record in reader:
        if any(record):
            yield Row(record, before, gap)
            given += 1
            if given == _SAMPLE_RECORDS:
                return
        gap = not any(record)
        before = reader.line_num


def _comment(sample: list[Row], width: int) -> str:
    """Guess that ``#`` begins comments: the first record does so and is no row of the table."""
    if sample and sample[0].cells[0].startswith("#") and len(sample[0].cells) != width:
        return "#"
    return ""


def _rows_to_look_at(width: int) -> int:
    """Return how many rows of a width tell the marks of numbers."""
    return max(_LEAST_ROWS, _ENOUGH_CELLS // max(1, width))


def _marks(cells: list[str], delimiter: str) -> tuple[str, str]:
    """Guess the decimal and the thousands mark from the cells of a sample, whatever stands around their numbers."""
    cells = [(match[1] or match[2]) if (match := _DRESSED.match(cell)) else cell for cell in cells]
    groups = {mark: sum(1 for cell in cells if pattern.match(cell)) for mark, pattern in _GROUPED.items()}
    # 1,234 may be a thousand: it says nothing
    commas = sum(1 for cell in cells if _COMMA_NUMBER.match(cell) and not _EITHER.match(cell))
    points = sum(1 for cell in cells if _POINT_NUMBER.match(cell))
    decimal = "," if commas > points and (delimiter != "," or groups["."]) else "."
    if groups["."] and not groups[","]:
        return ",", "."
    if groups[","] and not groups["."]:
        return ".", ","
    return decimal, ""
