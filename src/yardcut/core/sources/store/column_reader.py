"""One column while it is read: its kind so far, whether it must be read again as another, what was set aside."""

from __future__ import annotations

from dataclasses import field, replace

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnChunk, ColumnTask, convert_chunk
from yardcut.core.sources.delimited_blocks.row_places import RowPlaces
from yardcut.core.sources.kinds.declared import convert_column
from yardcut.core.sources.kinds.decorated import marks_around
from yardcut.core.sources.kinds.doubts import CODE, Doubt
from yardcut.core.sources.kinds.guessing_kinds import MOST_SET_ASIDE_TEXTS, guess_kind, may_set_aside
from yardcut.core.sources.kinds.set_aside import SetAside
from yardcut.core.sources.kinds.settled_texts import settled_texts
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.sources.store.builders import NumericBuilder, TextBuilder
from yardcut.core.sources.store.store_parts import StoreParts
from yardcut.core.table import bits as bit
from yardcut.core.table.stored_column import UNREAD, ColumnInfo
from yardcut.core.table.table_so_far import PartsSoFar
from yardcut.core.values.kinds import Kind

_LOOKED_AT = 10_000


@dataclass(slots=True)
class ColumnReader:
    """One column of the table, fed file by file.

    A declared kind that the values seem to have anyway is read as a guessed one is; else, or where that does not hold
    to the end, the column is read as text and converted at the end.
    """

    parts: StoreParts
    number: int
    kind: Kind | None
    declared: DeclaredKind | None = None
    builder: NumericBuilder | TextBuilder | None = None
    set_aside: SetAside = field(init=False)
    present: int = 0
    pending_missing: int = 0
    again: Kind | None = None
    name: str = ""
    lost_codes: bool = False
    doubt: Doubt | None = None
    zones: set[str] = field(default_factory=set)
    note: str = ""
    pattern: str = ""
    _as_guessed: bool = False

    def __post_init__(self) -> None:
        self.set_aside = SetAside(self.parts.folder, self.number)
        if self.declared is not None:
            self._as_guessed = _holds(self.declared, self.kind)
            self.kind = self.declared.kind if self._as_guessed else Kind.TEXT

    def task(self, place: int, no_values: tuple[str, ...]) -> ColumnTask | None:
        """Return how a file's column at ``place`` is to be read; ``None`` when it need not be any more."""
        if self.again is Kind.TEXT:
            return None
        coded = isinstance(self.builder, TextBuilder) and self.builder.coded
        return ColumnTask(place, self.again or self.kind, coded, no_values)

    def missing(self, rows: int) -> None:
        """Take rows of a file that does not have the column."""
        if self.again is not None:
            return
        if self.builder is None:
            self.pending_missing += rows
        else:
            self.builder.append_missing(rows)

    def consume(self, chunk: ColumnChunk, first_row: int, rows: int, marks: str, file_number: int) -> None:
        """Take a chunk of ``rows`` rows that begin at ``first_row``."""
        if self.again is not None:
            self._check_only(chunk)
            return
        if chunk.task.kind is None and chunk.texts is not None:
            if chunk.texts.null_count == rows and self.builder is None:
                self.pending_missing += rows
                return
            if self.kind is None:
                self.kind = guess_kind(chunk.texts.to_pylist(), marks) or Kind.TEXT
            if self.kind is not Kind.TEXT:
                texts, chunk.texts = chunk.texts.to_pylist(), None
                convert_chunk(chunk, texts, self.kind, marks)
        if chunk.wider is not None:
            self.again = Kind.TEXT if self._as_guessed else chunk.wider
            return
        builder = self._open_builder()
        if isinstance(builder, TextBuilder):
            if chunk.plain is not None and not builder.coded:
                builder.append_plain(*chunk.plain)
            else:
                builder.append(chunk.texts)
            return
        assert chunk.values is not None
        self.zones |= chunk.zones
        builder.append(chunk.values, chunk.valid)
        self.present += rows if chunk.valid is None else int(chunk.valid.sum())
        if chunk.unfit:
            self.set_aside.add(first_row, chunk.unfit, _places(chunk, file_number))
            if self.set_aside.different > MOST_SET_ASIDE_TEXTS:
                self.again = Kind.TEXT

    def _open_builder(self) -> NumericBuilder | TextBuilder:
        if self.builder is None:
            assert self.kind is not None
            self.builder = (
                TextBuilder(self.parts, self.number)
                if self.kind is Kind.TEXT
                else NumericBuilder(self.parts, self.number, self.kind)
            )
            if self.pending_missing:
                self.builder.append_missing(self.pending_missing)
        return self.builder

    def _check_only(self, chunk: ColumnChunk) -> None:
        """Go on looking at a column that must be read again, so that the second time is the last."""
        if self.again is Kind.NUMBER and chunk.task.kind is Kind.NUMBER:
            if chunk.wider is not None:
                self.again = Kind.TEXT
                return
            self.set_aside.add(0, chunk.unfit, _places(chunk, 0))
            if chunk.values is not None:
                self.present += len(chunk.values) if chunk.valid is None else int(chunk.valid.sum())
        elif self.again is Kind.NUMBER and chunk.wider is Kind.TEXT:
            self.again = Kind.TEXT

    def so_far(self, rows: int) -> PartsSoFar:
        """Return what is there of the column after ``rows`` rows.

        Where it must be read again, or is declared to be of a kind its texts are converted to at the end, no values.
        """
        kind = self.kind or Kind.TEXT
        later = self.declared is not None and not self._as_guessed and self.declared.kind is not Kind.TEXT
        if self.again is not None or later:
            kind = self.declared.kind if self.declared is not None else self.again or kind
            return PartsSoFar(ColumnInfo(self.name, kind, UNREAD, ""), None)
        if self.builder is None:
            nothing = np.full(rows, -1, dtype=np.int8)
            info = ColumnInfo(self.name, Kind.TEXT, "codes", "<i1", rows)
            return PartsSoFar(info, {"codes": lambda: nothing, "missing": lambda: bit.pack(nothing < 0)})
        if isinstance(self.builder, TextBuilder):
            return self.builder.so_far(self.name)
        zone = next(iter(self.zones - {""}), "") if len(self.zones - {""}) < 2 else "UTC"
        return self.builder.so_far(self.name, self.set_aside, zone)

    def settled_kind(self, marks: str, places: RowPlaces) -> Kind:
        """Return the kind the column takes now that everything has been seen."""
        if self.declared is not None and not self._as_guessed:
            return Kind.TEXT
        if self.again is Kind.TEXT:
            return Kind.TEXT
        kind = self.again or self.kind
        if kind is None:
            self.kind = Kind.TEXT
            self._open_builder()
            return Kind.TEXT
        if kind is Kind.TEXT:
            return self._narrower(marks, places)
        aside = self.set_aside
        if not may_set_aside(aside.count, aside.different, self.present + aside.count):
            return Kind.TEXT
        return kind

    def _narrower(self, marks: str, places: RowPlaces) -> Kind:
        """Give a text column whose texts all turn out to be values of a kind that kind, without reading again."""
        if not isinstance(self.builder, TextBuilder):
            return Kind.TEXT
        found = settled_texts(self.builder, self.name, marks, lost_codes=self.lost_codes)
        self.note, self.doubt = found.note, found.doubt
        if found.declared is None:
            return Kind.TEXT
        self.pattern = "".join(found.declared.patterns)
        self.kind, self.builder = found.declared.kind, self._converted(self.builder, found.declared, marks, places)
        return found.declared.kind

    def finish(self, name: str, rows: int, marks: str, places: RowPlaces) -> ColumnInfo:
        """Write what is left and return what the manifest says of the column."""
        builder = self.builder
        if builder is None:  # not one value was seen; a file that says its kinds may still have said this one
            self.kind, self.pending_missing = self.kind or Kind.TEXT, rows
            builder = self._open_builder()
        if self.declared is not None and self.declared.kind is not Kind.TEXT and isinstance(builder, TextBuilder):
            self._say_what_was_left_out(builder)
            builder = self._converted(builder, self.declared, marks, places)
        info = builder.finish(name, self.set_aside)
        zone = self._zone()
        if self.doubt is not None:
            info = replace(info, doubt=self.doubt.sentence, settled_by=self.doubt.lines)
        if self.lost_codes:
            info = replace(info, lost_code=CODE)
        return replace(info, pattern=self.pattern, zone=zone) if self.pattern or zone else info

    def _converted(self, builder: TextBuilder, declared: DeclaredKind, marks: str, places: RowPlaces) -> NumericBuilder:
        return convert_column(builder, declared, self.set_aside, marks, places, self.zones)

    def _say_what_was_left_out(self, builder: TextBuilder) -> None:
        """Say what stands around the numbers of a column that was declared to be of numbers."""
        if self.declared is None or not self.declared.kind.is_numeric:
            return
        texts = next((texts for _, texts in builder.read_back(_LOOKED_AT)), [])
        around = sorted({mark for text in set(texts) if text is not None for mark in marks_around(text)})
        if around:
            percent = " (12 % is 12, not 0.12)" if "a %" in around else ""
            self.note = f"its numbers are read without {', '.join(around)}{percent}"

    def _zone(self) -> str:
        """Return the zone that texts of instants are written in: UTC where they differ, which is said."""
        zones = sorted(self.zones - {""})
        if len(zones) > 1:
            some = ", ".join(zones[:4])
            self.note = f"its instants have different offsets from UTC ({some}); they are shown in UTC"
            return "UTC"
        return zones[0] if zones else ""


def _holds(declared: DeclaredKind, guessed: Kind | None) -> bool:
    """Tell whether the first rows look as a kind was declared, so that it may be read as if it were guessed."""
    return guessed is declared.kind and not declared.patterns and declared.kind is not Kind.TEXT


def _places(chunk: ColumnChunk, file_number: int) -> list[tuple[int, int]]:
    known = chunk.lines
    return [(file_number, known[at] if at < len(known) else 0) for at in range(len(chunk.unfit))]
