"""The first rows of a file, read without the engine so that they are on screen at once."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.encodings import decode_head
from yardcut.core.sources.form import (
    HEAD_BYTES,
    Form,
    column_names,
    guess_form,
    read_head,
    records,
)
from yardcut.core.sources.guessing import guess_kind
from yardcut.core.sources.headers import joined_names
from yardcut.core.sources.spec import SourceSpec
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


def read_preview(path: Path, spec: SourceSpec | None = None) -> Preview:
    """Read the first rows of a delimited file.

    Raises ``SourceError`` when there is nothing to read or the file is not delimited text.
    """
    spec = spec or SourceSpec.of(path)
    head = read_head(path)
    form = guess_form(path, head, spec.form_of(path))
    text = decode_head(head, form.encoding)
    lines = text.split("\n", form.skip) if form.skip else [text]
    found = [
        record
        for record in islice(records(lines[-1], form.delimiter, form.quote), PREVIEW_ROWS + 4)
        if not (form.comment and record[0].lstrip().startswith(form.comment))
    ]
    if not found:
        raise SourceError(f"{path} holds only blank lines", mend=Mend("check that it was written to the end"))
    width = len(found[0])
    header = [row + [""] * (width - len(row)) for row in found[: form.header] if len(row) <= width]
    names = column_names(spec.called(path, column_names(joined_names(header) if header else [""] * width)))
    # the last record may have been cut in two where the head ends
    whole = len(head) < HEAD_BYTES and len(found) < PREVIEW_ROWS + 4
    body = found[form.header :] if whole else found[form.header : -1]
    missing = set(spec.no_values(path) or MISSING_TEXTS)
    rows: list[list[str | None]] = [
        [None if cell in missing else cell for cell in record]
        for record in body
        if len(record) == width and record not in header
    ]
    looked_at = rows[:_GUESS_ROWS]
    kinds = [guess_kind((row[number] for row in looked_at), form.marks) or Kind.TEXT for number in range(width)]
    for place, declared in spec.kinds(names).items():
        kinds[place] = declared.kind
    return Preview(form, names, kinds, rows)
