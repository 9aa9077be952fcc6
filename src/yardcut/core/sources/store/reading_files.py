"""Reading the files of a source into one store: once through, kinds from all of it, nothing lost silently."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from pathlib import Path

import numpy as np

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.delimited_blocks.block_index import BlockIndex
from yardcut.core.sources.delimited_blocks.dropped import DroppedList
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnTask, ParsedBlock
from yardcut.core.sources.delimited_blocks.row_places import RowPlaces
from yardcut.core.sources.form.lining_up import common_zone, differences, wanted_places
from yardcut.core.sources.formats.source_file import SourceFile
from yardcut.core.sources.kinds.set_aside import SetAside, aside_path
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.builders import TextBuilder
from yardcut.core.sources.store.column_reader import ColumnReader
from yardcut.core.sources.store.rows_so_far import RowsSoFar
from yardcut.core.sources.store.store_parts import StoreParts
from yardcut.core.table.stored_column import UNREAD, ColumnInfo
from yardcut.core.table.stored_table import FileInfo, TableInfo
from yardcut.core.table.table_so_far import PartsSoFar, TableSoFar
from yardcut.core.values.kinds import Kind


class StoreReader:
    """Reads files, lined up by the names of their columns, into a folder of column files."""

    def __init__(
        self, files: Sequence[SourceFile], spec: SourceSpec, folder: Path, token: CancelToken, progress: Progress
    ) -> None:
        self._files = files
        self._folder = folder
        self._parts = StoreParts(folder)
        self._token = token
        self._progress = progress
        self._places_in = [wanted_places(file, spec) for file in files]
        self._names = list(dict.fromkeys(name for places in self._places_in for name in places))
        self._unmatched = spec.unmatched_columns(self._names)
        if len(files) > 1 and len(self._names) == sum(map(len, self._places_in)):
            self._unmatched.append("the files have no column in common: are they of one kind?")
        wanted = spec.wanted(None, self._names)
        if wanted is not None:
            self._names = [name for place, name in enumerate(self._names) if place in wanted]
            if not self._names:
                raise SourceError("no column is left by the only lines", mend=Mend("name a column that is there"))
        self._declared = spec.kinds(self._names)
        self._file_column = spec.file_column
        self._file_rows: list[int] = []
        self._dropped = DroppedList(folder)
        self._size = sum(file.size for file in files)
        self._marks = files[0].marks
        self.is_part = False
        self._keep_part = self._kinds_settled = False
        self._so_far: RowsSoFar | None = None
        self._fingerprint = ""
        self._unreadable: dict[str, int] = {}
        self._zeros: dict[str, int] = {}
        self._places = RowPlaces()
        self._block_index = BlockIndex()

    @property
    def names(self) -> Sequence[str]:
        """The names of the table's columns."""
        return self._names

    def read(
        self, fingerprint: str, problems: Sequence[str] = (), left_out: Sequence[str] = (), *, keep_part: bool = False,
        only: frozenset[str] | None = None, so_far: RowsSoFar | None = None,
    ) -> TableInfo:  # fmt: skip
        """Read everything, or with ``keep_part`` as much as there is when the token stops the reading.

        Where ``only`` some columns are wanted, the others are known by name, and by the kind they seem to be of.
        Whoever asks for the rows ``so_far`` gets them as tables, from the thread that reads.

        Raises ``SourceError``, ``StoppedError``, or ``OSError`` when the disk is full.
        """
        self._progress.begin("reading" if only is None else f"reading {_named(sorted(only))}", self._size)
        self._keep_part = keep_part
        self._so_far, self._fingerprint = so_far, fingerprint
        part_said = self._token.part_said
        wanted = [number for number, name in enumerate(self._names) if only is None or name in only]
        infos, notes = self._read_columns(wanted)
        if len(wanted) < len(self._names):
            infos |= self._unread(set(wanted))
            notes.append(_said_unread([self._names[number] for number in wanted], len(self._names)))
        if self.is_part:
            problems = (*problems, part_said.format(rows=f"{sum(self._file_rows):,}"))
        columns = [infos[number] for number in range(len(self._names))]
        self._block_index.write(self._folder)
        if self._file_column is not None:
            columns.append(self._write_file_column(len(columns)))
        return TableInfo(
            fingerprint,
            sum(self._file_rows),
            tuple(columns),
            self._file_infos(columns),
            (*problems, *notes),
            tuple(left_out),
        )

    def _unread(self, read: set[int]) -> dict[int, ColumnInfo]:
        guessed = self._guessed_kinds
        return {
            number: ColumnInfo(name, guessed[name] or Kind.TEXT, UNREAD, "")
            for number, name in enumerate(self._names)
            if number not in read
        }

    def outline(self, fingerprint: str, problems: Sequence[str] = (), left_out: Sequence[str] = ()) -> TableInfo:
        """Return what is known of the table before any column is read: of files that say their rows and kinds."""
        guessed = self._guessed_kinds
        columns: list[ColumnInfo] = []
        for number, name in enumerate(self._names):
            declared = self._declared.get(number)
            kind = guessed[name] or Kind.TEXT if declared is None else declared.kind
            zone = common_zone(name, self._files) if kind is Kind.INSTANT else ""
            columns.append(ColumnInfo(name, kind, UNREAD, "", zone=zone))
        if self._file_column is not None:
            columns.append(ColumnInfo(self._file_column_name(), Kind.TEXT, UNREAD, ""))
        self._file_rows = [file.size for file in self._files]
        rows = sum(self._file_rows)
        return TableInfo(
            fingerprint, rows, tuple(columns), self._file_infos(columns), (*problems, *self._unmatched), tuple(left_out)
        )

    def read_some(self, numbers: Sequence[int]) -> dict[int, ColumnInfo]:
        """Read some columns of a table whose outline is known; their kinds are settled."""
        self._progress.begin("reading " + ", ".join(self._called(number) for number in numbers[:3]), self._size)
        self._kinds_settled = True
        infos, _ = self._read_columns([number for number in numbers if number < len(self._names)])
        if len(self._names) in numbers:
            infos[len(self._names)] = self._write_file_column(len(self._names))
        return infos

    def _called(self, number: int) -> str:
        return self._names[number] if number < len(self._names) else self._file_column_name()

    def _read_columns(self, numbers: Sequence[int]) -> tuple[dict[int, ColumnInfo], list[str]]:
        guessed = self._guessed_kinds
        readers = [self._reader(number, guessed[self._names[number]]) for number in numbers]
        try:
            self._pass(readers, first=True)
        except StoppedError:
            if not self._keep_part or not self._file_rows or not sum(self._file_rows):
                raise
            self.is_part, self._token = True, CancelToken()
            self._file_rows += [0] * (len(self._files) - len(self._file_rows))
        rows = sum(self._file_rows)
        infos: dict[int, ColumnInfo] = {}
        again: dict[int, Kind] = {}
        for reader in readers:
            kind = reader.kind if self._kinds_settled else reader.settled_kind(self._marks, self._places)
            if kind is reader.kind:
                infos[reader.number] = reader.finish(self._names[reader.number], rows, self._marks, self._places)
            else:
                assert kind is not None
                again[reader.number] = kind
        notes = self._notes_of_files()
        if self._keep_part:
            self._token = CancelToken()  # the rows are all there; what is left is to give some columns their kind
        notes += [f"{self._names[reader.number]}: {reader.note}" for reader in readers if reader.note]
        infos |= self._read_again(again, rows)
        return self._sealed(infos), notes

    def _notes_of_files(self) -> list[str]:
        """Say what was met in the bytes of files."""
        notes = self._unmatched + [
            f"{label}, line {line:,}: bytes that are no UTF-8 were read as Windows-1252, from here on"
            for label, line in self._unreadable.items()
        ]
        return notes + [
            f"{label}: {count:,} zero {'byte stands' if count == 1 else 'bytes stand'} in its cells, shown as \u2400"
            for label, count in self._zeros.items()
        ]

    def _read_again(self, again: dict[int, Kind], rows: int) -> dict[int, ColumnInfo]:
        """Read columns again as other kinds, at last as texts."""
        infos: dict[int, ColumnInfo] = {}
        while again:
            self._progress.begin(f"reading {len(again)} columns again", self._size)
            retried = [self._afresh(number, kind) for number, kind in again.items()]
            self._pass(retried, first=False)
            again = {}
            for reader in retried:
                if reader.again is None:
                    infos[reader.number] = reader.finish(self._names[reader.number], rows, self._marks, self._places)
                else:
                    again[reader.number] = Kind.TEXT
        return infos

    def _sealed(self, infos: dict[int, ColumnInfo]) -> dict[int, ColumnInfo]:
        """Add the checks of what was written."""
        checks = self._parts.seal(infos)
        sealed: dict[int, ColumnInfo] = {}
        for number, info in infos.items():
            zone = info.zone
            if info.kind is Kind.INSTANT:
                zones = {zone for zone in (info.zone, common_zone(info.name, self._files)) if zone}
                zone = zones.pop() if len(zones) == 1 else "UTC"
            sealed[number] = replace(info, checks=checks[number], zone=zone)
        return sealed

    def _file_infos(self, columns: Sequence[ColumnInfo]) -> tuple[FileInfo, ...]:
        return tuple(
            FileInfo(
                file.label, file.number, count, file.form,
                self._dropped.of_file(file.label),
                differences(number, self._files, columns), file.path.stat().st_size, file.path.stat().st_mtime_ns,
            )
            for number, (file, count) in enumerate(zip(self._files, self._file_rows, strict=True))
        )  # fmt: skip

    def _afresh(self, number: int, kind: Kind) -> ColumnReader:
        self._parts.drop(number)
        aside_path(self._folder, number).unlink(missing_ok=True)
        return self._reader(number, kind)

    def _reader(self, number: int, kind: Kind | None) -> ColumnReader:
        name = self._names[number]
        lost = any(
            places.get(name) in file.lost_codes for file, places in zip(self._files, self._places_in, strict=True)
        )
        return ColumnReader(self._parts, number, kind, self._declared.get(number), name=name, lost_codes=lost)

    @cached_property
    def _guessed_kinds(self) -> dict[str, Kind | None]:
        """What each file's columns seem to be, merged, or are said to be; the reading corrects what is wrong."""
        if len(self._declared) == len(self._names):
            return {self._names[number]: declared.kind for number, declared in self._declared.items()}
        merged: dict[str, Kind | None] = {}
        for file, places in zip(self._files, self._places_in, strict=True):
            kinds = file.kinds()
            for name, place in places.items():
                kind = kinds[place]
                known = merged.get(name)
                if known is None or kind is None or known is kind:
                    merged[name] = known or kind
                else:
                    both = {known, kind}
                    merged[name] = Kind.NUMBER if both == {Kind.INTEGER, Kind.NUMBER} else Kind.TEXT
        return merged

    def _met(self, file_number: int, label: str, block: ParsedBlock, rows: int) -> None:
        """Note what a block tells when it is met for the first time, ``rows`` before it."""
        self._places.add(rows, file_number, block)
        self._block_index.add(file_number, block)
        if block.unreadable_line and label not in self._unreadable:
            self._unreadable[label] = block.unreadable_line
        if block.zeros:
            self._zeros[label] = self._zeros.get(label, 0) + block.zeros
        self._dropped.add(label, block.dropped)

    def _pass(self, readers: list[ColumnReader], *, first: bool) -> None:
        rows = done = 0
        for file_number, file in enumerate(self._files):
            places = self._places_in[file_number]
            no_values = file.no_values()
            named = [(reader, places.get(self._names[reader.number])) for reader in readers]
            absent = [reader for reader, place in named if place is None]
            by_place = {place: reader for reader, place in named if place is not None}

            def tasks(
                there: dict[int, ColumnReader] = by_place, no_values: list[tuple[str, ...]] = no_values
            ) -> list[ColumnTask]:
                found = (reader.task(place, no_values[place]) for place, reader in there.items())
                return [task for task in found if task is not None]

            before = rows
            if first:
                self._file_rows.append(0)
            wanted_rows = None if first else self._file_rows[file_number]
            # a part is kept of whole blocks, the first one at least
            token = CancelToken() if self._keep_part and first else self._token
            for block in file.blocks(tasks, token):
                if wanted_rows is not None and rows - before >= wanted_rows and self.is_part:
                    break
                for chunk in block.chunks:
                    by_place[chunk.task.number].consume(chunk, rows, block.rows, file.marks, file_number)
                if first:
                    self._met(file_number, file.label, block, rows)
                rows += block.rows
                if first:
                    self._file_rows[file_number] = rows - before
                self._progress.done, self._progress.rows = done + block.bytes_read, rows
                for reader in absent:
                    reader.missing(block.rows)
                if rows:
                    self._tell_so_far(readers, rows, first)
                    self._token.check()
            done += file.size
            if not first and rows - before != self._file_rows[file_number]:
                raise changed_while_read(file.label)

    def _tell_so_far(self, readers: Sequence[ColumnReader], rows: int, first: bool) -> None:
        if first and self._so_far is not None:
            if self._so_far.is_due():
                self._so_far.hand_on(self._table_so_far(readers, rows))
            self._progress.started += self._so_far.wait_while_held(self._token)  # the pace is that of reading

    def _table_so_far(self, readers: Sequence[ColumnReader], rows: int) -> TableSoFar:
        """Return the rows that are there, as a table."""
        files = tuple(
            FileInfo(file.label, file.number, count, file.form, self._dropped.of_file(file.label))
            for file, count in zip(self._files, self._file_rows, strict=False)
        )
        parts = [reader.so_far(rows) for reader in readers]
        if self._file_column is not None:
            codes = np.repeat(np.arange(len(files), dtype=np.int32), [file.rows for file in files])
            about = ColumnInfo(self._file_column_name(), Kind.TEXT, "codes", "<i4", words=len(files))
            parts.append(PartsSoFar(about, {"codes": lambda: codes}, [file.label for file in files]))
        infos = tuple(part.info for part in parts)
        info = TableInfo(f"{self._fingerprint} {rows} rows so far", rows, infos, files)
        return TableSoFar(info, self._folder, parts, self._progress.share)

    def _write_file_column(self, number: int) -> ColumnInfo:
        import pyarrow as pa

        builder = TextBuilder(self._parts, number)
        for file, count in zip(self._files, self._file_rows, strict=True):
            for start in range(0, count, 1 << 20):
                size = min(1 << 20, count - start)
                builder.append(pa.DictionaryArray.from_arrays(pa.array([0] * size, pa.int32()), pa.array([file.label])))
        return self._sealed({number: builder.finish(self._file_column_name(), SetAside(self._folder, number))})[number]

    def _file_column_name(self) -> str:
        assert self._file_column is not None
        name = self._file_column
        while name in self._names:
            name += "_2"
        return name


_MOST_NAMED = 6


def _said_unread(read: Sequence[str], count: int) -> str:
    """Say which columns were read as values, where not all were."""
    named = _named(read)
    alone = f"of its columns only {named} was" if len(read) == 1 else f"of its columns only {named} were"
    return (
        f"{alone if read else 'none of its columns was'} read as values; the cells of all others go through as they are"
    )


def _named(names: Sequence[str]) -> str:
    """Return the first of some names, and how many more there are."""
    more = f" and {len(names) - _MOST_NAMED:,} more" if len(names) > _MOST_NAMED else ""
    return ", ".join(names[:_MOST_NAMED]) + more


def changed_while_read(label: str) -> SourceError:
    """Return the error for a file that did not hold still."""
    return SourceError(f"{label} changed while it was read", mend=Mend("open it again when it is written to the end"))
