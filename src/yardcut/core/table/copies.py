"""A table of rows drawn with replacement: each row of another table as often as it was drawn, a row of its own each."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property
from typing import TypeVar

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_column import Column
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import Dictionary, Vector

_Found = TypeVar("_Found")


class CopiedColumn(Column):
    """A column of such a table: its values stay where they are, and are gathered when they are looked at."""

    def __init__(self, origin: Column, copied: Array) -> None:
        self._origin = origin
        self._copied = copied
        self.number = origin.number
        self.rows = len(copied)
        self.refresh()

    def refresh(self) -> None:
        """Take what is known of the column by now."""
        self.info, self.is_loaded = self._origin.info, self._origin.is_loaded

    @property
    def is_complete(self) -> bool:
        """True when every row is known to have a value."""
        return self._origin.is_complete

    @property
    def dictionary(self) -> Dictionary:
        """The distinct texts of a coded column, those of no row here among them."""
        return self._origin.dictionary

    def missing_bits(self, first_row: int, end_row: int) -> Array | None:
        """Return one bit for each row without a value; ``None``: nowhere."""
        if self._origin.is_complete:
            return None
        mask = self.slice(first_row, end_row).missing_mask()
        return None if mask is None else bit.pack(mask)

    def slice(self, first_row: int, end_row: int) -> Vector:
        """Return rows ``first_row`` to ``end_row`` (excluded)."""
        return self._looked_at(self._origin.take(self._copied[first_row:end_row]))

    def take_at_once(self, row_ids: Array) -> Vector | None:
        """Return some rows, or ``None`` when that would take long."""
        return self._looked_at(self._origin.take_at_once(self._copied[row_ids]))

    def take(self, row_ids: Array) -> Vector:
        """Return the rows with the given ids (any integer dtype), in that order."""
        return self._looked_at(self._origin.take(self._copied[row_ids]))

    def _looked_at(self, found: _Found) -> _Found:
        """Take what a look made known of the column: it may have been read for it."""
        self.refresh()
        return found


class TableOfCopies(Table):
    """Rows of ``origin`` by their ids there (``copied``, uint32), copies of one row side by side.

    It counts its own rows, so that every figure about it is counted as it is about any table. What it was read from is
    the origin's: files, notes, store.
    """

    def __init__(self, origin: Table, copied: Array) -> None:
        digest = hashlib.blake2b(origin.fingerprint.encode(), digest_size=16)
        digest.update(copied.tobytes())
        super().__init__(replace(origin.info, rows=len(copied), fingerprint=digest.hexdigest()), origin.folder)
        self.origin = origin
        self.leads_to_source = origin.leads_to_source
        self.copied = copied
        self._copies = [CopiedColumn(column, copied) for column in origin.columns]
        self.columns = self._copies

    def load(self, numbers: Iterable[int], token: CancelToken, progress: Progress | None = None) -> None:
        """Read those of some columns that stand in their own file only. Raises ``SourceError``, ``StoppedError``."""
        wanted = list(numbers)
        self.origin.load(wanted, token, progress)
        for number in wanted:
            self._copies[number].refresh()

    def fetch(
        self, numbers: Iterable[int], row_ids: Array, token: CancelToken, progress: Progress | None = None
    ) -> None:
        """See to it that some rows of columns are there. Raises ``SourceError``, ``StoppedError``."""
        self.origin.fetch(numbers, self.copied[row_ids], token, progress)

    def is_worth_scanning(self, numbers: Iterable[int]) -> bool:
        """Say no: copies are gathered from columns that were read."""
        return False

    def look_at(self, numbers: Iterable[int], row_ids: Array) -> None:
        """Fetch some rows of columns that stand in their own file only, all at once. Raises ``SourceError``."""
        self.origin.look_at(numbers, self.copied[row_ids])

    @property
    def source(self) -> Table:
        """The table as it was read."""
        return self.origin.source

    def source_ids(self, row_ids: Array) -> Array:
        """Return the ids that rows have in the source."""
        return self.origin.source_ids(self.copied[row_ids])

    def id_of(self, source_id: int) -> int:
        """Return the id of a row, the first of several, by its id in the source; 0 where it is not here."""
        found = np.flatnonzero(self.copied == self.origin.id_of(source_id))
        return int(found[0]) if len(found) else 0

    def ids_in(self, fingerprint: str, row_ids: Array) -> Array:
        """Return the ids that rows have in the table with a fingerprint: this one, or one it was drawn from."""
        return row_ids if fingerprint == self.fingerprint else self.origin.ids_in(fingerprint, self.copied[row_ids])

    @cached_property
    def copy_numbers(self) -> Array:
        """Return for each row which copy of its origin it is, from 0 (int64)."""
        begins = np.ones(len(self.copied), dtype=np.bool_)
        begins[1:] = self.copied[1:] != self.copied[:-1]
        starts = np.flatnonzero(begins)
        sizes = np.diff(np.append(starts, len(self.copied)))
        return np.arange(len(self.copied)) - np.repeat(starts, sizes)
