"""What is inside a file that holds several tables: what each is called, and a look at one before it is opened."""

from __future__ import annotations

from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.formats import function
from yardcut.core.progress import CancelToken
from yardcut.core.sources.form.table_look import TableLook
from yardcut.core.sources.formats.format_of_files import format_of_file, open_file
from yardcut.core.sources.spec import SourceSpec, TableLine
from yardcut.core.values.kinds import Kind

if TYPE_CHECKING:
    from yardcut.core.sources.formats.source_file import SourceFile

_FIRST_ROWS = 8


def tables_inside(path: Path, spec: SourceSpec) -> list[tuple[str, str]]:
    """Return the tables of a file to choose from, with what is known of each; none where nothing is to be chosen.

    Raises ``SourceError``.
    """
    if spec.tables(path) is not None or spec.query(path) is not None:
        return []
    form = format_of_file(path)
    found: list[tuple[str, str]] = function(form.tables)(path, spec) if form.tables else []
    return found if len(found) > 1 else []


def look_into(path: Path, spec: SourceSpec, name: str, token: CancelToken) -> TableLook:
    """Look at one table of a file. Raises ``SourceError`` or ``StoppedError``."""
    from yardcut.core.sources.formats.records import RecordsFile

    spec, form = spec.with_line(TableLine(None, (name,))), format_of_file(path)
    if form.look:
        looked: TableLook = function(form.look)(path, spec, token)
        return looked
    file: SourceFile = open_file(path, spec, token)[0]
    kinds = tuple(kind or Kind.TEXT for kind in file.kinds())
    rows: list[tuple[str | None, ...]] = []
    if isinstance(file, RecordsFile):
        no_values = file.no_values()
        for batch, _, _ in file.batches():
            rows += [
                tuple(None if cell in none else cell for cell, none in zip(row, no_values, strict=True))
                for row in islice(batch, _FIRST_ROWS - len(rows))
            ]
            if len(rows) == _FIRST_ROWS:
                break
    count = file.size if form.counts_at_once else None
    return TableLook(tuple(file.names), kinds, tuple(rows), count)
