"""The form of a delimited file, and guessing it from the first part of its bytes. Plain Python: starts at once."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.encodings import check_encoding, decode_head, guess_encoding
from yardcut.core.sources.headers import header_rows
from yardcut.core.sources.spec import FormLine
from yardcut.core.sources.streams import open_bytes

HEAD_BYTES = 1 << 18
_DELIMITERS = (",", ";", "\t", "|")
_SAMPLE_RECORDS = 200
_MOST_TITLE_ROWS = 30
_GROUPED = {
    # several groups, or one group and a decimal part: 1.234 alone may be either
    ".": re.compile(r"[+-]?\d{1,3}((\.\d{3}){2,}(,\d+)?|\.\d{3},\d+)\Z"),
    ",": re.compile(r"[+-]?\d{1,3}((,\d{3}){2,}(\.\d+)?|,\d{3}\.\d+)\Z"),
}
_NOTHING_SAID = FormLine()
_COMMA_NUMBER = re.compile(r"[+-]?\d+,\d+\Z")
_POINT_NUMBER = re.compile(r"[+-]?\d+\.\d+\Z")

csv.field_size_limit(1 << 26)


@dataclass(frozen=True, slots=True)
class Form:
    """How a delimited file is written: ``skip`` lines stand above the header, which has ``header`` rows (0: none).

    ``thousands`` and ``comment`` are empty where the file has no such mark.
    """

    delimiter: str = ","
    decimal: str = "."
    encoding: str = "utf-8"
    quote: str = '"'
    thousands: str = ""
    comment: str = ""
    skip: int = 0
    header: int = 1

    @property
    def marks(self) -> str:
        """The decimal mark, and behind it the thousands mark where there is one."""
        return self.decimal + self.thousands

    def words(self) -> str:
        """Say the form in a phrase, for the screen."""
        names = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", " ": "blank"}
        said = [f"{names.get(self.delimiter, self.delimiter)} between cells"]
        if self.decimal == ",":
            said.append("decimal comma")
        if self.thousands:
            said.append(f"{names.get(self.thousands, self.thousands)} between thousands")
        if self.quote != '"':
            said.append(f"{self.quote} around cells")
        said.append(self.encoding)
        if self.skip:
            said.append(f"{self.skip} lines above the header")
        if self.comment:
            said.append(f"comments begin with {self.comment}")
        if self.header != 1:
            said.append(f"{self.header} header rows" if self.header else "no header")
        return ", ".join(said)


def read_head(path: Path, size: int = HEAD_BYTES) -> bytes:
    """Read the first bytes of a file. Raises ``SourceError`` with the reason when it cannot be read."""
    try:
        if path.is_dir():
            raise SourceError(f"{path} is a directory", mend=Mend("name a file in it"))
        if path.is_fifo():
            raise SourceError(
                f"{path} is a pipe, which gives its bytes once", mend=Mend("name it on the command line, not in a list")
            )
        if path.exists() and not path.is_file():
            raise SourceError(f"{path} is a device or a socket, and no file", mend=Mend("name a file"))
        with open_bytes(path) as file:
            head = file.read(size)
    except FileNotFoundError:
        raise SourceError(
            f"there is no file {path}", mend=Mend("check the path, and the directory it starts from")
        ) from None
    except PermissionError:
        raise SourceError(
            f"{path} may not be read by you", mend=Mend("ask for the right to read it, or copy it")
        ) from None
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
    if not head:
        raise SourceError(
            f"{path} is empty: it has not even a header", mend=Mend("check that it was written to the end")
        )
    return head


def records(text: str, delimiter: str, quote: str = '"') -> Iterator[list[str]]:
    """Split text into records with the csv module; blank lines are left out."""
    for record in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, quotechar=quote):
        if record:
            yield record


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
    if said.skip:
        text = "".join(text.splitlines(keepends=True)[said.skip :])
    delimiter, sample = _delimiter(text, quote, said.delimiter)
    width, _ = _usual_width(sample)
    comment = said.comment if said.comment is not None else _comment(sample, width)
    above, sample = _above_header(sample, width, comment)
    cells = [cell for record, _ in sample for cell in record]
    decimal, thousands = _marks(cells, delimiter)
    form = Form(
        delimiter, said.decimal or decimal, encoding, quote, thousands if said.thousands is None else said.thousands,
        comment, above if said.skip is None else said.skip,
    )  # fmt: skip
    if said.header is None:
        return replace(form, header=header_rows([record for record, _ in sample], form.marks))
    return replace(form, header=said.header)


_Sample = list[tuple[list[str], int]]
"""Records, each with the number of lines that end before it."""


def _delimiter(text: str, quote: str, said: str | None) -> tuple[str, _Sample]:
    """Return the delimiter that gives the most records of one width, and the records it gives."""
    best, best_score = said or ",", (0.0, 0)
    best_sample: _Sample = []
    for delimiter in (said,) if said else _DELIMITERS:
        sample: _Sample = []
        reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, quotechar=quote)
        before = 0
        try:
            for record in reader:
                if record:
                    sample.append((record, before))
                before = reader.line_num
                if len(sample) == _SAMPLE_RECORDS:
                    break
        except csv.Error:
            continue
        width, share = _usual_width(sample)
        score = (share, width) if width > 1 or said else (0.0, 0)
        if score > best_score or not best_sample:
            best, best_score, best_sample = delimiter, score, sample
    return best, best_sample


def _usual_width(sample: _Sample) -> tuple[int, float]:
    """Return the width most records have, leaving out what may be comments, and the share that has it."""
    widths = Counter(len(record) for record, _ in sample if not record[0].lstrip().startswith("#"))
    widths = widths or Counter(len(record) for record, _ in sample)
    if not widths:
        return 0, 0.0
    width, times = max(widths.items(), key=lambda item: (item[1], item[0]))
    return width, times / widths.total()


def _comment(sample: _Sample, width: int) -> str:
    """Guess that ``#`` begins comments: the first record does so and is no row of the table."""
    if sample and sample[0][0] and sample[0][0][0].startswith("#") and len(sample[0][0]) != width:
        return "#"
    return ""


def _above_header(sample: _Sample, width: int, comment: str) -> tuple[int, _Sample]:
    """Return the lines above the header, which hold a title at most, and the sample without comments and those."""
    rows = [(record, line) for record, line in sample if not (comment and record[0].startswith(comment))]
    first = 0
    while first < min(len(rows) - 1, _MOST_TITLE_ROWS):
        record = rows[first][0]
        filled = sum(1 for cell in record if cell.strip())
        title = (len(record) == 1 and width > 1) or (filled <= 1 and width > 2)
        if not title:
            break
        first += 1
    return (rows[first][1] if first else 0), rows[first:]


def _marks(cells: list[str], delimiter: str) -> tuple[str, str]:
    """Guess the decimal and the thousands mark from the cells of a sample."""
    groups = {mark: sum(1 for cell in cells if pattern.match(cell)) for mark, pattern in _GROUPED.items()}
    commas = sum(1 for cell in cells if _COMMA_NUMBER.match(cell))
    points = sum(1 for cell in cells if _POINT_NUMBER.match(cell))
    decimal = "," if commas > points and (delimiter != "," or groups["."]) else "."
    if groups["."] and not groups[","]:
        return ",", "."
    if groups[","] and not groups["."]:
        return ".", ","
    return decimal, ""


def column_names(header: list[str]) -> list[str]:
    """Make the cells of a header into distinct, non-empty names.

    Outer blanks are trimmed; an empty name becomes ``column_7``, a repeated one ``name_2``; taken ones are skipped.
    """
    trimmed = [cell.strip() for cell in header]
    taken = set(trimmed)
    seen: set[str] = set()
    names = []
    for number, name in enumerate(trimmed, 1):
        candidate = name or f"column_{number}"
        copy = 2
        base = candidate
        while candidate in seen or (candidate != name and candidate in taken):
            candidate = f"{base}_{copy}"
            copy += 1
        seen.add(candidate)
        names.append(candidate)
    return names
