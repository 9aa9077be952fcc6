"""The form of a delimited file, and guessing it from the first part of its bytes. Plain Python: starts at once."""

from __future__ import annotations

import codecs
import csv
import io
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from yardcut.core.errors import Mend, SourceError

HEAD_BYTES = 1 << 18
_DELIMITERS = (",", ";", "\t", "|")
_SAMPLE_RECORDS = 200
_BOMS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
_COMMA_NUMBER = re.compile(r"[+-]?\d+,\d+\Z")
_POINT_NUMBER = re.compile(r"[+-]?\d+\.\d+\Z")

csv.field_size_limit(1 << 26)


@dataclass(frozen=True, slots=True)
class Form:
    """How a delimited file is written."""

    delimiter: str = ","
    decimal: str = "."
    encoding: str = "utf-8"
    quote: str = '"'

    def words(self) -> str:
        """Say the form in a phrase, for the screen."""
        names = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
        decimal = ", decimal comma" if self.decimal == "," else ""
        return f"{names[self.delimiter]} between cells{decimal}, {self.encoding}"


def read_head(path: Path, size: int = HEAD_BYTES) -> bytes:
    """Read the first bytes of a file. Raises ``SourceError`` with the reason when it cannot be read."""
    try:
        if path.is_dir():
            raise SourceError(f"{path} is a directory", mend=Mend("name a file in it"))
        with open(path, "rb") as file:
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


def guess_encoding(head: bytes, path: Path) -> str:
    """Guess the encoding: a byte-order mark, else UTF-8 where it fits, else Windows-1252.

    Raises ``SourceError`` for binary files.
    """
    for mark, encoding in _BOMS:
        if head.startswith(mark):
            return encoding
    if b"\0" in head:
        raise SourceError(
            f"{path} holds bytes that no delimited text has: it looks like a binary file",
            mend=Mend("name a delimited text file or a Parquet file"),
        )
    decoder = codecs.getincrementaldecoder("utf-8")()
    try:
        decoder.decode(head)
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8"


def _keep_readable(error: UnicodeError) -> tuple[str, int]:
    assert isinstance(error, UnicodeDecodeError)
    return error.object[error.start : error.end].decode("cp1252", "replace"), error.end


codecs.register_error("yardcut-readable", _keep_readable)
READABLE = "yardcut-readable"
"""A decoding error handler: bytes that are not valid UTF-8 are read as Windows-1252, so nothing is lost."""


def decode_head(head: bytes, encoding: str) -> str:
    """Decode the first bytes of a file, leaving out a character cut in two at the end."""
    errors = READABLE if encoding.startswith("utf-8") else "replace"
    return codecs.getincrementaldecoder(encoding)(errors).decode(head)


def records(text: str, delimiter: str, quote: str = '"') -> Iterator[list[str]]:
    """Split text into records with the csv module; blank lines are left out."""
    for record in csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, quotechar=quote):
        if record:
            yield record


def guess_form(path: Path, head: bytes) -> Form:
    """Guess a delimited file's form from its first bytes. Raises ``SourceError`` for binary files."""
    encoding = guess_encoding(head, path)
    text = decode_head(head, encoding)
    best, best_score = ",", (0.0, 0)
    best_sample: list[list[str]] = []
    for delimiter in _DELIMITERS:
        sample = []
        try:
            for record in records(text, delimiter):
                sample.append(record)
                if len(sample) == _SAMPLE_RECORDS:
                    break
        except csv.Error:
            continue
        width, times = Counter(map(len, sample)).most_common(1)[0] if sample else (0, 0)
        score = (times / len(sample), width) if width > 1 else (0.0, 0)
        if score > best_score:
            best, best_score, best_sample = delimiter, score, sample
    decimal = "."
    if best != ",":
        cells = [cell for record in best_sample for cell in record]
        commas = sum(1 for cell in cells if _COMMA_NUMBER.match(cell))
        points = sum(1 for cell in cells if _POINT_NUMBER.match(cell))
        decimal = "," if commas > points else "."
    return Form(best, decimal, encoding)


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
