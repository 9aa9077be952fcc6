"""One column of a store: what is known of it, its arrays on disk, and reading some of its rows."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.checking import Checked, CheckedArray, FileCheck
from yardcut.core.table.vectors import (
    CodedVector,
    Dictionary,
    NumericVector,
    PlainVector,
    Vector,
    gather_plain,
)
from yardcut.core.values.kinds import Kind

UNREAD = "unread"


_RUN_ROWS = 1 << 10
"""From so many rows on it is seen whether they follow each other."""


@dataclass(frozen=True, slots=True)
class ColumnInfo:
    """What the manifest of a store says of one column.

    ``storage`` is ``"values"``, ``"codes"``, ``"plain"``, or ``UNREAD`` while its arrays are not there; ``dtype`` is
    that of the values or codes on disk. ``data_bytes`` is the size of the texts, or of the ``words`` of a dictionary.
    ``missing`` counts the rows without a value. ``set_aside`` counts the values that did not fit the kind, and
    ``set_aside_texts`` gives them with their counts. ``checks`` are those of the column's files,
    ``zone`` is the one whose clock shows a column of instants; ``pattern`` that in which its texts hold days or times,
    where it is not the standard one. ``doubt`` says what the column may be instead, or may have lost, and
    ``settled_by`` the sub-lines of which any settles it; ``lost_code`` is a text that was met and means no value.
    """

    name: str
    kind: Kind
    storage: str
    dtype: str
    missing: int = 0
    data_bytes: int = 0
    words: int = 0
    set_aside: int = 0
    set_aside_texts: tuple[tuple[str, int], ...] = ()
    checks: tuple[FileCheck, ...] = ()
    zone: str = ""
    pattern: str = ""
    doubt: str = ""
    lost_code: str = ""
    settled_by: tuple[str, ...] = ()


class Column:
    """Reads rows of one column from its mapped arrays."""

    def __init__(self, info: ColumnInfo, folder: Path, number: int, rows: int) -> None:
        self.info = info
        self.number = number
        self.rows = rows
        self._folder = folder

    is_loaded = True
    """True when the column's arrays are in the store."""

    @property
    def is_complete(self) -> bool:
        """True when every row has a value."""
        return self.info.missing == 0

    @property
    def name(self) -> str:
        """The column's name in the source."""
        return self.info.name

    @property
    def kind(self) -> Kind:
        """The kind of the column's values."""
        return self.info.kind

    def _map(self, part: str, dtype: str, count: int) -> Checked:
        check = next((check for check in self.info.checks if check.part == part), FileCheck(part, 0, ()))
        return CheckedArray(self._folder / (check.pack or f"{self.number}.{part}"), dtype, count, check)

    @cached_property
    def _values(self) -> Checked:
        part = "codes" if self.info.storage == "codes" else "values"
        return self._map(part, self.info.dtype, self.rows)

    @cached_property
    def _missing(self) -> Checked | None:
        return self._map("missing", "|u1", (self.rows + 7) // 8) if self.info.missing else None

    @cached_property
    def _marked(self) -> Checked | None:
        """The bits of missing values where the values themselves do not mark them."""
        return None if self.info.storage == "codes" or self.kind is Kind.NUMBER else self._missing

    @cached_property
    def _offsets(self) -> Checked:
        return self._map("offsets", "<i8", self.rows + 1)

    @cached_property
    def _data(self) -> Checked:
        return self._map("data", "|u1", self.info.data_bytes)

    @cached_property
    def dictionary(self) -> Dictionary:
        """The distinct texts of a coded column."""
        data = self._map("words", "|u1", self.info.data_bytes).checked().tobytes()
        sizes = self._map("sizes", "<i8", self.info.words).checked()
        texts = []
        start = 0
        for size in sizes.tolist():
            texts.append(data[start : start + size].decode("utf-8", "replace"))
            start += size
        return Dictionary(texts)

    def missing_bits(self, first_row: int, end_row: int) -> Array | None:
        """Return one bit for each row without a value, from a row that is a multiple of 8 on; ``None``: nowhere."""
        if self._missing is None:
            return None
        return bit.window(self._missing.checked(first_row // 8, (end_row + 7) // 8), first_row, end_row)

    def slice(self, first_row: int, end_row: int) -> Vector:
        """Return rows ``first_row`` to ``end_row`` (excluded) without copying."""
        rows = slice(first_row, end_row)
        if self.info.storage == "codes":
            return CodedVector(self._values.checked(first_row, end_row)[rows], self.dictionary, self.is_complete)
        missing = None
        if self._marked is not None:
            marked = self._marked.checked(first_row // 8, (end_row + 7) // 8)
            missing = bit.unpack(marked, first_row, end_row)
            if not missing.any():
                missing = None
        if self.info.storage == "plain":
            offsets = self._offsets.checked(first_row, end_row + 1)[first_row : end_row + 1]
            return PlainVector(offsets, self._data.checked(int(offsets[0]), int(offsets[-1])), missing)
        values = self._values.checked(first_row, end_row)[rows]
        return NumericVector(self.kind, values, missing, self.is_complete, self.info.zone)

    def take_at_once(self, row_ids: Array) -> Vector | None:
        """Return some rows, or ``None`` when that would take long."""
        return self.take(row_ids)

    def take(self, row_ids: Array) -> Vector:
        """Return the rows with the given ids (any integer dtype), in that order."""
        rows = np.asarray(row_ids, dtype=np.int64)
        if len(rows) >= _RUN_ROWS and rows[-1] - rows[0] == len(rows) - 1 and (rows[1:] - rows[:-1] == 1).all():
            return self.slice(int(rows[0]), int(rows[-1]) + 1)  # not copied
        if self.info.storage == "codes":
            return CodedVector(np.asarray(self._values.checked_at(rows)[rows]), self.dictionary)
        gone = None if self._marked is None else bit.at(self._marked.checked_at(rows >> 3), rows)
        if self.info.storage == "plain":
            self._offsets.checked_at(rows)
            offsets = self._offsets.checked_at(rows + 1)
            self._data.checked_at(offsets[rows])
            taken = gather_plain(PlainVector(offsets, self._data.checked_at(offsets[rows + 1] - 1)), rows)
            return PlainVector(taken.offsets, taken.data, gone)
        return NumericVector(self.kind, np.asarray(self._values.checked_at(rows)[rows]), gone, zone=self.info.zone)
