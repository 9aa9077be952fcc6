"""A source opened for Python: files as the app reads them, or a table that another library holds in memory."""

from __future__ import annotations

import atexit
import dataclasses
import os
from pathlib import Path
from typing import Protocol

from yardcut.core import litter
from yardcut.core.cutlist.file import load_list
from yardcut.core.cutlist.model import Cut as CutOfList
from yardcut.core.cutlist.model import CutList
from yardcut.core.errors import Mend, SourceError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.session import resolve_source
from yardcut.core.sources.elsewhere.standing import let_be_read_anew
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.own_folders import BUILDING, own_folder, stores_folder
from yardcut.core.table.stored_table import Table as CoreTable
from yardcut.face.frozen_cuts import Cut


class ArrowStream(Protocol):
    """What hands its rows over by the Arrow PyCapsule interface."""

    def __arrow_c_stream__(self, requested_schema: object | None = None) -> object:
        """Return a capsule with a stream of batches."""


class Table:
    """A source that is open. It is never written to.

    ``names`` and ``kinds`` are its columns' (text, integer, number, boolean, date, timestamp …), ``rows`` how many rows
    it has, ``notes`` what was met while it was read: dropped rows, values set aside.
    """

    def __init__(self, spec: SourceSpec, table: CoreTable, cut_list: CutList | None = None) -> None:
        self._spec = spec
        self._table = table
        self._executor = Executor(LocalRunner(table))
        self._list = cut_list or CutList(spec.files, spec.lines, (CutOfList(),), base=spec.base)

    @property
    def names(self) -> tuple[str, ...]:
        """The names of its columns."""
        return tuple(column.name for column in self._table.columns)

    @property
    def kinds(self) -> tuple[str, ...]:
        """The kinds of its columns, by their words."""
        return tuple(column.kind.value for column in self._table.columns)

    @property
    def rows(self) -> int:
        """How many rows it has."""
        return self._table.rows

    def __len__(self) -> int:
        """Return how many rows it has."""
        return self.rows

    @property
    def notes(self) -> tuple[str, ...]:
        """What must be known of it: rows dropped, values set aside, files left out."""
        from yardcut.core.run.explaining.source_report import sentences

        return tuple(sentences(self._table))

    def cut(self, *lines: str) -> Cut:
        """Return a cut of some lines, as they stand in a list: ``table.cut("keep grade = 'A'", "draw first 10")``.

        Raises ``ListError`` with place, cause and mend for a line that is wrong.
        """
        cut = Cut(self._spec, self._executor, self._list, 0)
        for line in lines:
            cut = cut.line(line)
        return cut

    def keep(self, condition: str) -> Cut:
        """Return the cut with the rows for which a condition is true."""
        return self.cut().keep(condition)

    def drop(self, condition: str) -> Cut:
        """Return the cut without the rows for which a condition is true."""
        return self.cut().drop(condition)

    def make(self, columns: str) -> Cut:
        """Return the cut with columns computed from others: ``worth = volume_m3 * price_per_m3``."""
        return self.cut().make(columns)

    def order(self, keys: str) -> Cut:
        """Return the cut in an order: ``price_per_m3 DESC, ticket``."""
        return self.cut().order(keys)

    def draw(self, how: str) -> Cut:
        """Return the cut of some rows: ``top 10 by price_per_m3 per species``, ``random 500 seed 7``."""
        return self.cut().draw(how)

    def columns(self, columns: str) -> Cut:
        """Return the cut with columns chosen, put in order and renamed: ``ticket, species AS wood``."""
        return self.cut().columns(columns)

    def tally(self, measures: str) -> Cut:
        """Return the cut put together by groups: ``SUM(volume_m3) AS volume per species``."""
        return self.cut().tally(measures)

    def bring(self, columns: str) -> Cut:
        """Return the cut with columns of a second table: ``name from "mills.csv" by mill_id = id``."""
        return self.cut().bring(columns)

    def __repr__(self) -> str:
        """Say what it is."""
        return f"<yardcut table {self._spec.label}: {self.rows:,} rows, {len(self.names)} columns>"


def open_source(source: str | os.PathLike[str] | ArrowStream, *lines: str) -> Table:
    """Open a file, a pattern, the address of a server, or anything that hands over its rows by ``__arrow_c_stream__``.

    ``lines`` say how it is read, as below the source of a list: ``"form delimiter ';'"``, ``"table 'packs'"``. Raises
    ``SourceError`` where there is nothing that can be read, ``ListError`` for a line that is wrong.
    """
    if isinstance(source, str | os.PathLike):
        spec = SourceSpec.of(os.fspath(source))
    elif hasattr(source, "__arrow_c_stream__"):
        spec = SourceSpec.of(_kept(source))
    else:
        mend = Mend("give a path, or a table with __arrow_c_stream__")
        raise SourceError(f"{type(source).__name__} is no source", mend=mend)
    spec = dataclasses.replace(spec, lines=tuple(map(parse_sub_line, lines)))
    let_be_read_anew(spec)
    return Table(spec, open_table(spec))


def load(path: str | os.PathLike[str], cut: str | None = None, source: str | os.PathLike[str] | None = None) -> Cut:
    """Return a cut of a saved list; ``cut`` names it where the list has several, ``source`` is read in its place.

    Raises ``ListError`` for a list that is wrong, ``SourceError`` where its source cannot be read.
    """
    found = load_list(Path(path))
    spec = resolve_source(found, Path(path).parent)
    if source is not None:
        spec = dataclasses.replace(SourceSpec.of(os.fspath(source)), lines=spec.lines)
    names = [each.name for each in found.cuts]
    if cut is None and len(names) > 1:
        raise SourceError(f"the list has {len(names)} cuts", mend=Mend(f"name one of {', '.join(names)}"))
    let_be_read_anew(spec)
    table = Table(spec, open_table(spec), found)
    whole = Cut(spec, table._executor, found, 0 if cut is None else found.cut_index(cut))
    whole._check()
    return whole


def _kept(source: ArrowStream) -> Path:
    """Keep a table from memory as a file of this process's own, so that it is opened as any other is."""
    import pyarrow as pa

    folder = own_folder(stores_folder(), BUILDING)
    atexit.register(litter.drop, folder)
    path = folder / "memory.arrow"
    reader = pa.RecordBatchReader.from_stream(source)
    with pa.OSFile(str(path), "wb") as file, pa.ipc.new_file(file, reader.schema) as writer:
        for batch in reader:
            writer.write_batch(batch)
    return path
