"""Sources whose files say their rows and kinds beforehand: opened at once, columns read when they are first needed."""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from yardcut.core import litter
from yardcut.core.private import private_folder, write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnTask
from yardcut.core.sources.direct_scan import DirectScan, vector_of
from yardcut.core.sources.form.lining_up import wanted_places
from yardcut.core.sources.formats.arrow_batches import WINDOW_ROWS, BatchFile
from yardcut.core.sources.scattered_rows import ScatteredRows
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.cache import cache_closed, new_folder, reading_failed, source_mark, trim_cache
from yardcut.core.sources.store.reading_files import StoreReader, changed_while_read
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import FlatVector, join_vectors, missing_vector, take_rows
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.stored_table import FORMAT, Table, column_from_json, column_to_json, has_its_files, sizes_in
from yardcut.core.table.vectors import NumericVector, Vector, vector_bytes
from yardcut.core.values.kinds import Kind

_MOST_WINDOWS = 8
_KEPT_BYTES = 64 << 20
_COLUMNS_AT_ONCE = 256


class ColumnsOnDemand:
    """Reads whole columns into the store's folder, and single pages straight from the files."""

    leaves_unread = False

    def __init__(
        self, files: Sequence[BatchFile], problems: Sequence[str], left_out: Sequence[str], spec: SourceSpec,
        paths: list[Path], mark: str, folder: Path,
    ) -> None:  # fmt: skip
        self._files, self._spec, self._paths, self._mark, self._folder = files, spec, paths, mark, folder
        self._loading, self._looking = threading.Lock(), threading.Lock()
        self._kept: OrderedDict[tuple[int, int, int, int], FlatVector] = OrderedDict()
        self._outline = self._reader(folder, CancelToken(), Progress()).outline(mark, problems, left_out)
        self._kept_bytes = 0
        self._scanned: set[int] = set()
        names = [info.name for info in self._outline.columns]
        # columns that do not stand in the files as they are: those of a declared kind, and the files' names
        self._made = {*spec.kinds(names)} | ({len(names) - 1} if spec.file_column is not None else set())
        self._places_in = [wanted_places(file, spec) for file in files]
        self._ends = np.cumsum([size for file in files for size in file.group_rows], dtype=np.int64)
        self._group_files = np.repeat(np.arange(len(files)), [len(file.group_rows) for file in files])
        self._first_groups = np.cumsum([0, *(len(file.group_rows) for file in files)])
        self._scattered: ScatteredRows | None = None
        self._scan = DirectScan(files, self._places_in, self._outline.columns, self._check_unchanged)

    def table(self) -> Table:
        """Return the table; columns that were read before are there already. Raises ``SourceError``."""
        try:
            private_folder(self._folder)
            self._folder.touch()
        except OSError as error:
            raise cache_closed(error, self._folder.parent) from error
        sizes = sizes_in(self._folder)
        known = [self._known(number, sizes) for number in range(len(self._outline.columns))]
        columns = tuple(
            found if found is not None and (found.name, found.kind) == (column.name, column.kind) else column
            for found, column in zip(known, self._outline.columns, strict=True)
        )
        return Table(replace(self._outline, columns=columns), self._folder, self)

    def _reader(self, folder: Path, token: CancelToken, progress: Progress) -> StoreReader:
        return StoreReader(self._files, self._spec, folder, token, progress)

    # whole columns

    def load(self, numbers: list[int], token: CancelToken, progress: Progress | None = None) -> dict[int, ColumnInfo]:
        """Read columns into the store. Raises ``SourceError``, ``StoppedError``."""
        with self._loading:
            sizes = sizes_in(self._folder) if self._folder.exists() else {}
            found = {number: info for number in numbers if (info := self._known(number, sizes)) is not None}
            wanted = [number for number in numbers if number not in found]
            return found | self._read(wanted, token, progress or Progress()) if wanted else found

    def _read(self, numbers: list[int], token: CancelToken, progress: Progress) -> dict[int, ColumnInfo]:
        building = new_folder()
        try:
            found = self._reader(building, token, progress).read_some(numbers)
            self._check_unchanged()
            private_folder(self._folder)
            for file in building.iterdir():
                if file.name != litter.LOCK_NAME:
                    file.replace(self._folder / file.name)
            for number, info in found.items():
                content = {"format": FORMAT, **column_to_json(info)}
                write_private(self._note(number), json.dumps(content, ensure_ascii=False).encode())
        except OSError as error:
            raise reading_failed(error, self._spec.label, self._folder.parent) from error
        finally:
            litter.drop(building)
        trim_cache(keep=self._folder)
        return found

    def _note(self, number: int) -> Path:
        return self._folder / f"{number}.json"

    def _known(self, number: int, sizes: dict[str, int]) -> ColumnInfo | None:
        """Return what was noted of a column when it was read; the note is written last."""
        if self._note(number).name not in sizes:
            return None
        try:
            content = json.loads(self._note(number).read_text(encoding="utf-8"))
            info = column_from_json(content) if content.pop("format") == FORMAT else None
            return info if info is not None and has_its_files(info, number, sizes) else None
        except (OSError, ValueError, KeyError, TypeError):
            return None

    def is_worth_scanning(self, numbers: Sequence[int]) -> bool:
        """Tell whether some columns are gone over without storing them: each is so once, then it is stored."""
        with self._looking:
            if self._made & set(numbers) or self._scanned & set(numbers):
                return False
            self._scanned |= set(numbers)
        return True

    def group_scan(self) -> DirectScan:
        """Return what goes over columns in the files."""
        return self._scan

    def _check_unchanged(self) -> None:
        try:
            unchanged = source_mark(self._spec, self._paths) == self._mark
        except OSError:
            unchanged = False
        if not unchanged:
            raise changed_while_read(self._spec.label)

    # pages

    def cells(self, number: int, rows: Array) -> Vector | None:
        """Return some rows of a column from the files, or ``None`` when it had better be read whole.

        Raises ``SourceError``.
        """
        windows = self._windows_of(rows)
        used = np.unique(windows, axis=0)
        if number in self._made:
            return None
        if len(used) > _MOST_WINDOWS:
            fetched = None if self._scattered is None else self._scattered.cells(number, rows)
            return None if fetched is None else self._on_its_clock(number, fetched)
        kind = self._outline.columns[number].kind
        if not len(rows):
            return missing_vector(kind, 0)
        parts, places = [], []
        for file, group, window in used.tolist():
            chosen = np.flatnonzero((windows == (file, group, window)).all(axis=1))
            within = self._within(rows[chosen], file, group) - window * WINDOW_ROWS
            parts.append(take_rows(self._window([number], file, group, window)[0], within))
            places.append(chosen)
        back = np.empty(len(rows), dtype=np.int64)
        back[np.concatenate(places)] = np.arange(len(rows))
        return self._on_its_clock(number, take_rows(join_vectors(parts), back))

    def _on_its_clock(self, number: int, found: FlatVector) -> Vector:
        column = self._outline.columns[number]
        if isinstance(found, NumericVector) and column.kind is Kind.INSTANT:
            return replace(found, zone=column.zone)
        return found

    def fetch(self, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress | None) -> bool:
        """Fetch what :meth:`cells` will be asked for; tell whether it is there then, or columns had better be read.

        Raises ``SourceError``, ``StoppedError``.
        """
        if self._made & set(numbers):
            return False
        if len(np.unique(self._windows_of(rows), axis=0)) <= _MOST_WINDOWS:
            return True
        with self._looking:
            self._scattered = self._scattered or ScatteredRows(self._scan)
        return self._scattered.fetch(numbers, rows, token, progress or Progress())

    def look_at(self, numbers: list[int], rows: Array) -> None:
        """Fetch what :meth:`cells` will be asked for of several columns, all at once. Raises ``SourceError``."""
        wanted = [number for number in numbers if number not in self._made]
        used = np.unique(self._windows_of(rows), axis=0).tolist()
        if len(used) <= _MOST_WINDOWS:
            for file, group, window in used:
                for start in range(0, len(wanted), _COLUMNS_AT_ONCE):
                    self._window(wanted[start : start + _COLUMNS_AT_ONCE], file, group, window)

    def _windows_of(self, rows: Array) -> Array:
        """Return (file, group, window) of each row, as one line of an array each (int64)."""
        groups = np.searchsorted(self._ends, rows, side="right")
        files, firsts = self._group_files[groups], np.concatenate(([0], self._ends))[groups]
        return np.stack((files, groups - self._first_groups[files], (rows - firsts) // WINDOW_ROWS), axis=1)

    def _within(self, rows: Array, file: int, group: int) -> Array:
        at = int(self._first_groups[file]) + group
        within: Array = rows - (int(self._ends[at - 1]) if at else 0)
        return within

    def _window(self, numbers: list[int], file: int, group: int, window: int) -> list[FlatVector]:
        """Return a window of some columns, from memory where it was read a moment ago."""
        source, places = self._files[file], self._places_in[file]
        columns = {number: self._outline.columns[number] for number in numbers}
        found: dict[int, FlatVector] = {}
        with self._looking:
            for number in numbers:
                known = self._kept.get((number, file, group, window))
                if known is not None:
                    self._kept.move_to_end((number, file, group, window))
                    found[number] = known
                elif columns[number].name not in places:
                    rows = min(WINDOW_ROWS, source.group_rows[group] - window * WINDOW_ROWS)
                    found[number] = missing_vector(columns[number].kind, rows)
            unread = [number for number in numbers if number not in found]
            if unread:
                tasks = [ColumnTask(places[columns[at].name], columns[at].kind, coded=False) for at in unread]
                for number, chunk in zip(unread, source.window(tasks, group, window), strict=True):
                    found[number] = self._kept[number, file, group, window] = vector_of(columns[number], chunk)
                    self._kept_bytes += vector_bytes(found[number])
                while self._kept_bytes > _KEPT_BYTES and len(self._kept) > len(unread):
                    self._kept_bytes -= vector_bytes(self._kept.popitem(last=False)[1])
        return [found[number] for number in numbers]
