"""The first rows of a file, read without the engine so that they are on screen at once."""

from __future__ import annotations

from itertools import islice
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.form.delimited_form import (
    HEAD_BYTES,
    Form,
    column_names,
    read_head,
    records,
)
from yardcut.core.sources.form.encodings import decode_head
from yardcut.core.sources.form.footers import footer_start
from yardcut.core.sources.form.guessing_form import guess_form
from yardcut.core.sources.form.headers import joined_names
from yardcut.core.sources.form.table_layout import Row
from yardcut.core.sources.kinds.guessing_kinds import guess_kind
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
    if form.returns:
        text = text.replace("\r", "\n")
    lines = text.split("\n", form.skip) if form.skip else [text]
    found = [
        record
        for record in islice(records(lines[-1], form.delimiter, form.quote), PREVIEW_ROWS + 4)
        if not (form.comment and record[0].lstrip().startswith(form.comment))
    ]
    if not found:
        raise SourceError(f"{path} holds only blank lines", mend=Mend("check that it was written to the end"))
    width = form.width or len(found[0])
    header = [row[:width] + [""] * (width - len(row)) for row in found[: form.header]]
    names = column_names(spec.called(path, column_names(joined_names(header) if header else [""] * width)))
    # the last record may have been cut in two where the head ends
    whole = len(head) < HEAD_BYTES and len(found) < PREVIEW_ROWS + 4
    written = found[: form.header]
    body = _rows_of_table(found[form.header :] if whole else found[form.header : -1], form, width, ends=whole)
    missing = set(spec.no_values(path) or MISSING_TEXTS)
    rows: list[list[str | None]] = [
        [None if cell in missing else cell for cell in record] for record in body if record not in written
    ]
    looked_at = rows[:_GUESS_ROWS]
    kinds = [guess_kind((row[number] for row in looked_at), form.marks) or Kind.TEXT for number in range(width)]
    for place, declared in spec.kinds(names).items():
        kinds[place] = declared.kind
    return Preview(form, names, kinds, rows)


def _rows_of_table(found: list[list[str]], form: Form, width: int, *, ends: bool) -> list[list[str]]:
    """Return the records that are rows of the table, without the totals and notes where the file ``ends`` with them."""
    rows: list[Row] = []
    gap = False
    for record in found:
        cells = record + [""] * (width - len(record)) if form.ragged else record
        if any(cells) or width == 1:
            rows.append(Row(cells, 0, gap))
        gap = not any(cells)
    if ends:
        stays = footer_start(rows, width, form.marks) if form.footer is None else max(0, len(rows) - form.footer)
        rows = rows[:stays]
    return [row.cells for row in rows if len(row.cells) == width]
