"""Rows from all over a large delimited file, as a small table: what there will be in all is estimated by them."""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.form.delimited_form import Form, read_head, records
from yardcut.core.sources.formats.delimited import FIRST_BLOCK_BYTES, DelimitedFile
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.piped import kept_copy
from yardcut.core.sources.spec import DeclaredKind, KindLine, Selector, SourceSpec
from yardcut.core.sources.streams import open_bytes
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table

PLACES = 64
_PLACE_BYTES = 1 << 15
_LEAST_BYTES = 4 * PLACES * _PLACE_BYTES
"""A smaller file is read in less time than anybody looks."""
_MOST_COLUMNS = 500


@dataclass(frozen=True, slots=True, eq=False)
class SampledPlaces:
    """A table of rows from places at equal distances over a file.

    ``ends`` (int64) are the ends of the places among its rows, ``rows_in_all`` how many rows the file has, about.
    """

    table: Table
    ends: Array
    rows_in_all: float


def sampled_places(path: Path, spec: SourceSpec, table: Table, token: CancelToken) -> SampledPlaces | None:
    """Return rows from all over a file, read as the ``table`` of its first rows is; ``None`` where it has no middle.

    A compressed file and a pipe cannot be entered in the middle, nor a file of which a cell may hold a line end; of
    small and of very wide files it is not worth it. Raises ``SourceError``, ``StoppedError`` and ``OSError``.
    """
    if growing(path) is not None or len(table.columns) > _MOST_COLUMNS or path.stat().st_size < _LEAST_BYTES:
        return None
    with open_bytes(path) as file:
        if file.compression is not None:
            return None
    file_form = DelimitedFile(path, spec, block_bytes=FIRST_BLOCK_BYTES)
    form, above = file_form.reading_form, _above(path, file_form)
    if above is None or form.returns or not form.encoding.startswith("utf-8"):
        return None
    taken = _taken(path, len(above), form, len(file_form.names), token)
    if not taken:
        return None
    kept = kept_copy(io.BytesIO(above + b"".join(taken)), f"places of {path.name}")
    sample = open_table(_as_the_first_rows(spec, path, kept, table), token, Progress())
    lines = np.array([piece.count(b"\n") for piece in taken], np.int64)
    if sample.rows != int(lines.sum()) or [each.name for each in sample.columns] != [
        each.name for each in table.columns
    ]:
        return None  # lines are no rows here
    bytes_a_row = sum(map(len, taken)) / sample.rows
    return SampledPlaces(sample, np.cumsum(lines), (path.stat().st_size - len(above)) / bytes_a_row)


def _above(path: Path, file: DelimitedFile) -> bytes | None:
    """Return what stands above the rows, ``None`` where it is not known where they begin."""
    head, header = read_head(path), file.raw_header
    if not header:
        return b"" if file.reading_form.skip == 0 else None
    place = head.find(header[-1])
    end = head.find(b"\n", place)
    return head[: end + 1] if place >= 0 and end >= 0 else None


def _taken(path: Path, start: int, form: Form, width: int, token: CancelToken) -> list[bytes]:
    """Return whole lines from each place; nothing where any of them is no row by itself."""
    size, taken = path.stat().st_size, list[bytes]()
    quote = form.quote.encode()
    with open(path, "rb", buffering=0) as file:
        for number in range(PLACES):
            token.check()
            file.seek(start + (size - start) * number // PLACES)
            found = file.read(_PLACE_BYTES)
            first = 0 if number == 0 else found.find(b"\n") + 1
            piece = found[first : found.rfind(b"\n") + 1]
            for line in piece.splitlines() if quote in piece else ():
                if line.count(quote) % 2:
                    return []
            text = piece.decode("utf-8", "replace")
            if not piece or any(len(row) != width for row in records(text, form.delimiter, form.quote)):
                return []
            taken.append(piece)
    return taken


def _as_the_first_rows(spec: SourceSpec, path: Path, kept: Path, table: Table) -> SourceSpec:
    """Return a source of the sampled rows, every column of the kind it has in the first rows."""
    kinds = tuple(
        (Selector(column.name), DeclaredKind(column.info.kind, (column.info.pattern,) if column.info.pattern else ()))
        for column in table.columns
    )
    lines = [replace(line, file=None) for line in spec.lines if line.applies(path)]
    return replace(SourceSpec.of(kept), lines=(*lines, KindLine(None, kinds)))
