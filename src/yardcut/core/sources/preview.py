"""The first rows of a file, read without the engine so that they are on screen at once."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.form import (
    HEAD_BYTES,
    Form,
    column_names,
    decode_head,
    guess_form,
    read_head,
    records,
)
from yardcut.core.sources.guessing import guess_kind
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS

PREVIEW_ROWS = 200
_GUESS_ROWS = 50  # for a start: the reading finds the kinds from the whole file


@dataclass(frozen=True, slots=True)
class Preview:
    """The first rows of a delimited file: names, provisional kinds, and cells (``None`` where missing)."""

    form: Form
    names: list[str]
    kinds: list[Kind]
    rows: list[list[str | None]]


def read_preview(path: Path) -> Preview:
    """Read the first rows of a delimited file.

    Raises ``SourceError`` when there is nothing to read or the file is not delimited text.
    """
    head = read_head(path)
    form = guess_form(path, head)
    found = list(islice(records(decode_head(head, form.encoding), form.delimiter), PREVIEW_ROWS + 2))
    if not found:
        raise SourceError(f"{path} holds only blank lines", mend=Mend("check that it was written to the end"))
    names = column_names(found[0])
    # the last record may have been cut in two where the head ends
    whole = len(head) < HEAD_BYTES and len(found) < PREVIEW_ROWS + 2
    body = found[1:] if whole else found[1:-1]
    missing = set(MISSING_TEXTS)
    rows: list[list[str | None]] = [
        [None if cell in missing else cell for cell in record] for record in body if len(record) == len(names)
    ]
    looked_at = rows[:_GUESS_ROWS]
    kinds = [guess_kind((row[number] for row in looked_at), form.decimal) or Kind.TEXT for number in range(len(names))]
    return Preview(form, names, kinds, rows)
