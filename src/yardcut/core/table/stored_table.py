"""A table mapped from a column store on disk."""

from __future__ import annotations

import json
import os
from collections.abc import Hashable, Iterable, Iterator, Sequence
from dataclasses import asdict, fields
from pathlib import Path
from typing import Any

import numpy as np

from yardcut.core.cached import Kept
from yardcut.core.private import write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.checking import FileCheck
from yardcut.core.table.stored_column import UNREAD, Column, ColumnInfo
from yardcut.core.table.unread import ColumnLoader, GroupScan, UnreadColumn, load_columns
from yardcut.core.table.vectors import Vector, vector_bytes
from yardcut.core.values.kinds import Kind

MANIFEST = "manifest.json"
_KEPT_BYTES = 256 << 20
FORMAT = 14
"""Raised whenever the files of a store change their meaning; an older store is then built anew."""


@dataclass(frozen=True, slots=True)
class Differences:
    """How the columns of one file of a stack differ from the others'.

    ``lacks`` are those it does not have, ``alone`` those that no other has, ``kinds`` those whose values seem to be of
    another kind here than in the whole stack.
    """

    lacks: tuple[str, ...] = ()
    alone: tuple[str, ...] = ()
    kinds: tuple[tuple[str, Kind], ...] = ()


@dataclass(frozen=True, slots=True)
class FileInfo:
    """One file of a source: its name, its place among all files, and its rows in the table.

    ``form`` says how it was read, ``dropped`` counts what was by reason, ``differences`` say in what its columns differ
    from those of the other files.
    """

    label: str
    number: int
    rows: int
    form: dict[str, Any]
    dropped: tuple[tuple[str, int], ...] = ()
    differences: Differences = Differences()
    size_bytes: int = 0
    changed_ns: int = 0

    def dropped_words(self) -> list[str]:
        """Say what was dropped: how many of what."""
        return [_counted(times, reason) for reason, times in self.dropped]


def _counted(times: int, reason: str) -> str:
    if reason.startswith("line "):
        return f"{times:,} {reason if times == 1 else reason.replace('line', 'lines', 1)}"
    if reason.startswith("too "):
        return f"{times:,} {'row' if times == 1 else 'rows'} with {reason}"
    return f"{times:,} {reason}{'' if times == 1 else 's'}"


@dataclass(frozen=True, slots=True)
class TableInfo:
    """The manifest of a store: what was read, from what, and what was met on the way.

    ``fingerprint`` identifies the source's content; ``notes`` say what a user should know, ``left_out`` which files
    could not be read, and why.
    """

    fingerprint: str
    rows: int
    columns: tuple[ColumnInfo, ...]
    files: tuple[FileInfo, ...] = ()
    notes: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()

    @property
    def marks(self) -> str:
        """The decimal mark that texts of numbers have, and behind it the mark between thousands, if any."""
        form = self.files[0].form if self.files else {}
        return str(form.get("decimal", ".")) + str(form.get("thousands", ""))

    def dropped(self, *reasons: str) -> int:
        """Count the rows that were dropped, for some reasons or all."""
        return sum(times for file in self.files for reason, times in file.dropped if not reasons or reason in reasons)


class Table:
    """Rows and columns of one source. Columns are numbered from 0 here, from 1 for users.

    ``kept`` holds vectors that were worked out of it and may be wanted again.
    """

    leads_to_source = True
    """Whether its rows are rows of a source, whose own texts and numbers can be asked for."""
    share_read = 1.0
    """The part of its source that it holds: below 1 while that is still being read."""

    def __init__(self, info: TableInfo, folder: Path, loader: ColumnLoader | None = None) -> None:
        self.info = info
        self.folder = folder
        self._loader = loader
        self.kept: Kept[Hashable, Vector] = Kept(_KEPT_BYTES, vector_bytes)
        self.columns: Sequence[Column] = [
            Column(column, folder, number, info.rows)
            if loader is None or column.storage != UNREAD
            else UnreadColumn(column, folder, number, info.rows, loader)
            for number, column in enumerate(info.columns)
        ]

    @property
    def leaves_unread(self) -> bool:
        """Whether columns that were not read at once never will be."""
        return self._loader is not None and self._loader.leaves_unread

    def load(self, numbers: Iterable[int], token: CancelToken, progress: Progress | None = None) -> None:
        """Read those of some columns that stand in their own file only. Raises ``SourceError``, ``StoppedError``."""
        if self._loader is not None:
            load_columns([self.columns[number] for number in numbers], self._loader, token, progress)

    def fetch(
        self, numbers: Iterable[int], row_ids: Array, token: CancelToken, progress: Progress | None = None
    ) -> None:
        """See to it that some rows of columns are there: fetched from their files, or the columns read whole.

        Raises ``SourceError``, ``StoppedError``.
        """
        unread = [number for number in numbers if not self.columns[number].is_loaded]
        if self._loader is None or not unread or not len(row_ids):
            return
        if not self._loader.fetch(unread, np.asarray(row_ids, np.int64), token, progress):
            self.load(unread, token, progress)

    def is_worth_scanning(self, numbers: Iterable[int]) -> bool:
        """Tell whether to go over those of some columns that were not read yet in their own files, and store nothing.

        It is not when none is unread, or one was gone over so before.
        """
        unread = [number for number in numbers if not self.columns[number].is_loaded]
        return self._loader is not None and bool(unread) and self._loader.is_worth_scanning(unread)

    def group_scan(self) -> GroupScan:
        """Return what goes over columns in their own files, where that is worth it."""
        assert self._loader is not None
        return self._loader.group_scan()

    @property
    def rows(self) -> int:
        """The number of data rows."""
        return self.info.rows

    def segments(self, first_row: int, end_row: int) -> Iterator[tuple[int, int, int]]:
        """Yield (file number, first row, end row) of the pieces of files that some rows are; rows count in the file."""
        start = 0
        for file in self.info.files:
            end = start + file.rows
            low, high = max(first_row, start), min(end_row, end)
            if low < high:
                yield file.number, low - start, high - start
            start = end

    def look_at(self, numbers: Iterable[int], row_ids: Array) -> None:
        """Fetch some rows of columns that stand in their own file only, all at once. Raises ``SourceError``."""
        unread = [number for number in numbers if not self.columns[number].is_loaded]
        if self._loader is not None and len(unread) > 1 and len(row_ids):
            self._loader.look_at(unread, np.asarray(row_ids, np.int64))

    @property
    def source(self) -> Table:
        """The table as it was read."""
        return self

    def source_ids(self, row_ids: Array) -> Array:
        """Return the ids that rows have in the source."""
        return row_ids

    def id_of(self, source_id: int) -> int:
        """Return the id of a row, the first of several, by its id in the source; 0 where it is not here."""
        return source_id

    def ids_in(self, fingerprint: str, row_ids: Array) -> Array:
        """Return the ids that rows have in the table with a fingerprint: this one."""
        return row_ids

    @property
    def fingerprint(self) -> str:
        """Identifies the source's content."""
        return self.info.fingerprint


def write_manifest(info: TableInfo, folder: Path) -> None:
    """Write a store's manifest; it is the last file of a store, so a store without one is not whole."""
    content = {
        "format": FORMAT, "fingerprint": info.fingerprint, "rows": info.rows, "notes": info.notes,
        "left_out": info.left_out, "columns": list(map(column_to_json, info.columns)),
        "files": list(map(asdict, info.files)),
    }  # fmt: skip
    write_private(folder / MANIFEST, json.dumps(content, ensure_ascii=False).encode())


def column_to_json(info: ColumnInfo) -> dict[str, Any]:
    """Return what a manifest says of a column: what differs from the usual, since there may be thousands."""
    content = {
        part.name: value
        for part in _COLUMN_PARTS
        if part.name != "checks" and (value := getattr(info, part.name)) != part.default
    }
    content["checks"] = [[each.part, each.size_bytes, each.blocks, each.pack, each.offset] for each in info.checks]
    return content


_COLUMN_PARTS = fields(ColumnInfo)


def column_from_json(content: dict[str, Any]) -> ColumnInfo:
    """Return what a manifest says of a column. Raises ``KeyError``, ``TypeError`` or ``ValueError``."""
    content["kind"] = Kind(content["kind"])
    content["checks"] = tuple(
        FileCheck(part, size_bytes, tuple(blocks), pack, offset)
        for part, size_bytes, blocks, pack, offset in content["checks"]
    )
    if "set_aside_texts" in content:
        content["set_aside_texts"] = tuple((text, count) for text, count in content["set_aside_texts"])
    if "settled_by" in content:
        content["settled_by"] = tuple(content["settled_by"])
    return ColumnInfo(**content)


def sizes_in(folder: Path) -> dict[str, int]:
    """Return the sizes of the files of a store in bytes. Raises ``OSError``."""
    with os.scandir(folder) as entries:
        return {entry.name: entry.stat().st_size for entry in entries}


def has_its_files(info: ColumnInfo, number: int, sizes: dict[str, int]) -> bool:
    """Return whether a column's files are there, as long as they were written."""
    return all(
        sizes.get(check.pack, 0) >= check.offset + check.size_bytes
        if check.pack
        else sizes.get(f"{number}.{check.part}") == check.size_bytes
        for check in info.checks
    )


def _differences_from_json(content: dict[str, Any]) -> Differences:
    kinds = tuple((name, Kind(kind)) for name, kind in content["kinds"])
    return Differences(tuple(content["lacks"]), tuple(content["alone"]), kinds)


def read_table(folder: Path) -> Table | None:
    """Map a store. Returns ``None`` when there is none, it is not whole, or another version wrote it."""
    try:
        content = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))
        if content.pop("format") != FORMAT:
            return None
        content["columns"] = tuple(map(column_from_json, content["columns"]))
        content["files"] = tuple(
            FileInfo(
                **{
                    **file,
                    "dropped": tuple((reason, times) for reason, times in file["dropped"]),
                    "differences": _differences_from_json(file["differences"]),
                }
            )
            for file in content["files"]
        )
        content["notes"] = tuple(content["notes"])
        content["left_out"] = tuple(content["left_out"])
        info = TableInfo(**content)
        sizes = sizes_in(folder)
        if not all(has_its_files(column, number, sizes) for number, column in enumerate(info.columns)):
            return None
        checks = [check for column in info.columns for check in column.checks if check.pack]
        ends = {check.pack: check.offset + check.size_bytes for check in checks}
        if any(sizes[pack] != end for pack, end in ends.items()):
            return None
        return Table(info, folder)
    except (OSError, ValueError, KeyError, TypeError):
        return None
