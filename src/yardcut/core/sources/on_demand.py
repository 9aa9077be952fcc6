"""Sources whose files say their rows and kinds beforehand: opened at once, columns read when they are first needed."""

from __future__ import annotations

import json
import shutil
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import asdict, replace
from pathlib import Path

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.cache import new_folder, reading_failed, source_mark, trim_cache
from yardcut.core.sources.formats.arrow_batches import BatchFile
from yardcut.core.sources.lining_up import wanted_places
from yardcut.core.sources.parsing import ColumnChunk, ColumnTask
from yardcut.core.sources.reading import StoreReader, changed_while_read
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.array_file import Array
from yardcut.core.table.column import ColumnInfo
from yardcut.core.table.joining import FlatVector, join_vectors, missing_vector, take_rows, vector_bytes
from yardcut.core.table.table import FORMAT, Table, column_from_json, has_its_files
from yardcut.core.table.vectors import NumericVector, PlainVector, Vector
from yardcut.core.values.kinds import Kind

_MOST_GROUPS = 4
_KEPT_BYTES = 64 << 20
_HEAD_ROWS = 1 << 12


class ColumnsOnDemand:
    """Reads whole columns into the store's folder, and single pages straight from the files."""

    def __init__(
        self, files: Sequence[BatchFile], problems: Sequence[str], spec: SourceSpec, paths: list[Path], mark: str,
        folder: Path,
    ) -> None:  # fmt: skip
        self._files, self._spec, self._paths, self._mark, self._folder = files, spec, paths, mark, folder
        self._loading, self._looking = threading.Lock(), threading.Lock()
        self._kept: OrderedDict[tuple[int, int, int, int], FlatVector] = OrderedDict()
        self._outline = self._reader(folder, CancelToken(), Progress()).outline(mark, problems)
        self._places_in = [wanted_places(file, spec) for file in files]

    def table(self) -> Table:
        """Return the table; columns that were read before are there already. Raises ``SourceError``."""
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            self._folder.touch()
        except OSError as error:
            raise reading_failed(error, self._spec.label, self._folder.parent) from error
        known = [self._known(number) for number in range(len(self._outline.columns))]
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
            found = {number: info for number in numbers if (info := self._known(number)) is not None}
            wanted = [number for number in numbers if number not in found]
            return found | self._read(wanted, token, progress or Progress()) if wanted else found

    def _read(self, numbers: list[int], token: CancelToken, progress: Progress) -> dict[int, ColumnInfo]:
        building = new_folder()
        try:
            found = self._reader(building, token, progress).read_some(numbers)
            if source_mark(self._spec, self._paths) != self._mark:
                raise changed_while_read(self._spec.label)
            self._folder.mkdir(parents=True, exist_ok=True)
            for number, info in found.items():
                for file in building.glob(f"{number}.*"):
                    file.replace(self._folder / file.name)
                content = {"format": FORMAT, **asdict(info)}
                self._note(number).write_text(json.dumps(content, ensure_ascii=False), encoding="utf-8")
        except OSError as error:
            raise reading_failed(error, self._spec.label, self._folder.parent) from error
        finally:
            shutil.rmtree(building, ignore_errors=True)
        trim_cache(keep=self._folder)
        return found

    def _note(self, number: int) -> Path:
        return self._folder / f"{number}.json"

    def _known(self, number: int) -> ColumnInfo | None:
        """Return what was noted of a column when it was read; the note is written last."""
        try:
            content = json.loads(self._note(number).read_text(encoding="utf-8"))
            info = column_from_json(content) if content.pop("format") == FORMAT else None
            return info if info is not None and has_its_files(info, self._folder, number) else None
        except (OSError, ValueError, KeyError, TypeError):
            return None

    # pages

    def cells(self, number: int, rows: Array) -> Vector | None:
        """Return some rows of a column from the files, or ``None`` when it had better be read whole.

        Raises ``SourceError``.
        """
        column = self._outline.columns[number]
        reader_makes_it = number in self._spec.kinds([info.name for info in self._outline.columns])
        if reader_makes_it or (self._spec.file_column is not None and number == len(self._outline.columns) - 1):
            return None
        groups, within = self._groups_of(rows)
        used = np.unique(groups)
        if len(used) > _MOST_GROUPS:
            return None
        order = np.argsort(groups, kind="stable")
        parts = [
            take_rows(self._group(number, column, int(group), within[groups == group]), within[groups == group])
            for group in used
        ]
        if not parts:
            return missing_vector(column.kind, 0)
        back = np.empty(len(rows), dtype=np.int64)
        back[order] = np.arange(len(rows))
        return take_rows(join_vectors(parts), back)

    def _groups_of(self, rows: Array) -> tuple[Array, Array]:
        """Return each row's group, counted over all files, and its place within it."""
        ends = np.cumsum([size for file in self._files for size in file.group_rows])
        groups = np.searchsorted(ends, rows, side="right")
        return groups, rows - np.concatenate(([0], ends))[groups]

    def _group(self, number: int, column: ColumnInfo, group: int, within: Array) -> FlatVector:
        index = 0
        while group >= len(self._files[index].group_rows):
            group -= len(self._files[index].group_rows)
            index += 1
        file = self._files[index]
        size = file.group_rows[group]
        places = self._places_in[index]
        if column.name not in places:
            return missing_vector(column.kind, size)
        # the first rows of a group come without the rest of it
        rows = min(size, _HEAD_ROWS if within.max(initial=0) < _HEAD_ROWS else size)
        key = (number, index, group, rows)
        with self._looking:
            known = self._kept.get(key)
            if known is None:
                task = ColumnTask(places[column.name], column.kind, coded=False)
                known = self._kept[key] = _vector_of(column.kind, file.group_chunk(task, group, rows))
                while sum(map(vector_bytes, self._kept.values())) > _KEPT_BYTES and len(self._kept) > 1:
                    self._kept.popitem(last=False)
            self._kept.move_to_end(key)
            return known


def _vector_of(kind: Kind, chunk: ColumnChunk) -> FlatVector:
    if kind is Kind.TEXT:
        assert chunk.plain is not None
        offsets, data, valid = chunk.plain
        return PlainVector(offsets, data, None if valid is None else ~valid)
    assert chunk.values is not None
    gone = None if chunk.valid is None or kind is Kind.NUMBER else ~chunk.valid
    return NumericVector(kind, chunk.values, gone)
