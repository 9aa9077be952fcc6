"""The form of a delimited file: what it is, the bytes it is judged by, records, names. Plain Python: starts at once."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator
from dataclasses import field
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.streams import open_bytes

HEAD_BYTES = 1 << 18
_MOST_HEAD_BYTES = 1 << 24
_LEAST_LINES = 4

csv.field_size_limit(1 << 26)


@dataclass(frozen=True, slots=True)
class Form:
    """How a delimited file is written: ``skip`` lines stand above the header, which has ``header`` rows (0: none).

    ``thousands`` and ``comment`` are empty where the file has no such mark. ``width`` is the number of cells of the
    table's rows (0: as many as the header has); in a ``ragged`` file rows end where their last value
    does. ``footer`` rows at the end are none of the table (``None``: those that say so). With ``returns`` lines end
    in a carriage return alone; ``line_ends`` are those of most lines otherwise, ``lf`` or ``crlf``.
    """

    delimiter: str = ","
    decimal: str = "."
    encoding: str = "utf-8"
    quote: str = '"'
    thousands: str = ""
    comment: str = ""
    skip: int = 0
    header: int = 1
    width: int = field(default=0, compare=False)
    ragged: bool = False
    footer: int | None = None
    returns: bool = False
    line_ends: str = "lf"

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
        if self.line_ends == "crlf":
            said.append("carriage returns and line feeds")
        if self.returns:
            said.append("lines end in carriage returns")
        if self.ragged:
            said.append("short rows end with missing values")
        return ", ".join(said)


def read_head(path: Path, size: int = HEAD_BYTES) -> bytes:
    """Read the first bytes of a file, and more where they are few lines.

    Raises ``SourceError`` with the reason when it cannot be read.
    """
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
            # of very wide rows a form is judged by a few whole ones
            while size == len(head) and HEAD_BYTES <= size < _MOST_HEAD_BYTES and head.count(b"\n") < _LEAST_LINES:
                head += file.read(3 * size)
                size *= 4
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
