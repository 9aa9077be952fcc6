"""Rows from all over large delimited files, as a small table: what there will be in all is estimated by them."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.form.delimited_form import Form, read_head, records
from yardcut.core.sources.formats.delimited import FIRST_BLOCK_BYTES, DelimitedFile
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.piped import kept_bytes
from yardcut.core.sources.spec import DeclaredKind, KindLine, Selector, SourceSpec
from yardcut.core.sources.streams import is_compressed
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table

PLACES = 64
_PLACE_BYTES = 1 << 15
_LEAST_BYTES = 4 * PLACES * _PLACE_BYTES
"""A smaller file is read in less time than anybody looks."""
_MOST_COLUMNS, _MOST_FILES = 500, 64


@dataclass(frozen=True, slots=True, eq=False)
class SampledPlaces:
    """A table of rows from places at equal distances over files.

    ``ends`` (int64) are the ends of the places among its rows, ``rows_in_all`` how many rows the files have, about.
    """

    table: Table
    ends: Array
    rows_in_all: float


@dataclass(frozen=True, slots=True)
class _File:
    """One file: how it is read, what stands above its rows, and how many bytes behind that."""

    path: Path
    form: Form
    names: tuple[str, ...]
    above: bytes
    size: int


def sampled_places(paths: Sequence[Path], spec: SourceSpec, table: Table, token: CancelToken) -> SampledPlaces | None:
    """Return rows from all over files, read as the ``table`` of their first rows; ``None`` where they have no middle.

    A compressed file and a pipe cannot be entered in the middle, nor a file of which a cell may hold a line end; of
    small, of very wide and of very many files it is not worth it; files of several forms, or with other columns, are
    not gone into. Raises ``SourceError``, ``StoppedError`` and ``OSError``.
    """
    sizes = [0 if growing(path) is not None else path.stat().st_size for path in paths[: _MOST_FILES + 1]]
    if len(sizes) > _MOST_FILES or not all(sizes) or sum(sizes) < _LEAST_BYTES or len(table.columns) > _MOST_COLUMNS:
        return None
    files = _alike(paths, spec, token)
    taken = _taken(files, token) if files else []
    if not taken:
        return None
    kept = kept_bytes([files[0].above, *taken], f"places of {paths[0].name}")
    sample = open_table(_as_the_first_rows(spec, paths[0], kept, table), token, Progress())
    lines = np.array([piece.count(b"\n") for piece in taken], np.int64)
    if sample.rows != int(lines.sum()) or [each.name for each in sample.columns] != [
        each.name for each in table.columns
    ]:
        return None  # lines are no rows here
    bytes_a_row = sum(map(len, taken)) / sample.rows
    return SampledPlaces(sample, np.cumsum(lines), sum(file.size for file in files) / bytes_a_row)


def _alike(paths: Sequence[Path], spec: SourceSpec, token: CancelToken) -> list[_File]:
    """Return files that can be entered in the middle, and are read alike; none where one of them cannot, or is not."""
    files = list[_File]()
    for path in paths:
        token.check()
        if is_compressed(path):
            return []
        read = DelimitedFile(path, spec, block_bytes=FIRST_BLOCK_BYTES)
        form, above = read.reading_form, _above(path, read)
        if above is None or form.returns or not form.encoding.startswith("utf-8"):
            return []
        file = _File(path, form, tuple(read.names), above, path.stat().st_size - len(above))
        lines = [line for line in spec.lines if line.applies(path)]
        first = files[0] if files else file
        if (file.form, file.names) != (first.form, first.names):
            return []
        if lines != [line for line in spec.lines if line.applies(first.path)]:
            return []
        files.append(file)
    return files


def _above(path: Path, file: DelimitedFile) -> bytes | None:
    """Return what stands above the rows, ``None`` where it is not known where they begin."""
    head, header = read_head(path), file.raw_header
    if not header:
        return b"" if file.reading_form.skip == 0 else None
    place = head.find(header[-1])
    end = head.find(b"\n", place)
    return head[: end + 1] if place >= 0 and end >= 0 else None


def _taken(files: Sequence[_File], token: CancelToken) -> list[bytes]:
    """Return whole lines from each place; nothing where any of them is no row by itself."""
    starts = np.cumsum([0, *(file.size for file in files)]).tolist()
    taken, form, width = list[bytes](), files[0].form, len(files[0].names)
    quote = form.quote.encode()
    for number in range(PLACES):
        token.check()
        at = starts[-1] * number // PLACES
        which = bisect_right(starts, at) - 1
        piece = _lines_at(files[which], at - starts[which])
        for line in piece.splitlines() if quote in piece else ():
            if line.count(quote) % 2:
                return []
        text = piece.decode("utf-8", "replace")
        if any(len(row) != width for row in records(text, form.delimiter, form.quote)):
            return []
        if piece or len(files) == 1:
            taken.append(piece)
    return taken if all(taken) else []


def _lines_at(file: _File, place: int) -> bytes:
    """Return the whole lines behind a place, counted from the first row; none at the very end of a file."""
    with open(file.path, "rb", buffering=0) as opened:
        opened.seek(len(file.above) + place)
        found = opened.read(_PLACE_BYTES)
    first = 0 if place == 0 else found.find(b"\n") + 1
    return found[first : found.rfind(b"\n") + 1]


def _as_the_first_rows(spec: SourceSpec, path: Path, kept: Path, table: Table) -> SourceSpec:
    """Return a source of the sampled rows, every column of the kind it has in the first rows."""
    kinds = tuple(
        (Selector(column.name), DeclaredKind(column.info.kind, (column.info.pattern,) if column.info.pattern else ()))
        for column in table.columns
    )
    lines = [replace(line, file=None) for line in spec.lines if line.applies(path)]
    return replace(SourceSpec.of(kept), lines=(*lines, KindLine(None, kinds)))
