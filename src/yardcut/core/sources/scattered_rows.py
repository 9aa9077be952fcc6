"""Rows that stand all over a source's own files: each group that has some of them is gone over once, nothing is stored.

A column read whole costs about as much as all its groups gone over. So some rows are fetched as long as that has cost
no more than reading the column would, and then it is read whole: never more than twice the cost of the better way
(the rule for renting or buying skis of Karlin, Manasse, Rudolph and Sleator, "Competitive snoopy caching", 1988).
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.settings.threads import scan_threads
from yardcut.core.sources.direct_scan import DirectScan
from yardcut.core.table.array_file import Array
from yardcut.core.table.joining_vectors import FlatVector, join_vectors, take_rows
from yardcut.core.table.text_keys import plain_of
from yardcut.core.table.unread import DIRECT_ROWS, NotAsDeclaredError
from yardcut.core.table.vectors import CodedVector, Vector

_Fetched = dict[int, FlatVector]


class ScatteredRows:
    """The rows of some columns that were fetched last, by column."""

    def __init__(self, scan: DirectScan) -> None:
        self._scan = scan
        self._ends = np.array([end for _, end in scan.groups()], np.int64)
        self._lock = threading.Lock()
        self._spent: dict[int, int] = {}
        """For each column how many groups were gone over for rows of it."""
        self._kept: dict[int, tuple[Array, FlatVector]] = {}

    def fetch(self, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress) -> bool:
        """Fetch rows (int64 ids) of columns; tell whether that was done: else they had better be read whole.

        Raises ``SourceError``, ``StoppedError``.
        """
        rows = np.unique(rows)
        groups = np.unique(np.searchsorted(self._ends, rows, side="right")).tolist()
        with self._lock:
            if len(rows) > DIRECT_ROWS or any(
                self._spent.get(number, 0) + len(groups) > len(self._ends) for number in numbers
            ):
                return False
            for number in numbers:
                self._spent[number] = self._spent.get(number, 0) + len(groups)
        progress.begin("fetching rows", len(groups))
        try:
            with ThreadPoolExecutor(scan_threads(), thread_name_prefix="fetch") as pool:
                parts = list(pool.map(lambda group: self._of_group(group, numbers, rows, token, progress), groups))
        except NotAsDeclaredError:
            return False
        found = {number: join_vectors([part[number] for part in parts]) for number in numbers if parts}
        with self._lock:
            for number, vector in found.items():
                self._kept[number] = rows, vector
        return True

    def cells(self, number: int, rows: Array) -> FlatVector | None:
        """Return rows of a column, in their order, where all of them were fetched last; else ``None``."""
        with self._lock:
            known, vector = self._kept.get(number, (None, None))
        if known is None or vector is None or not len(known):
            return None
        places = np.minimum(np.searchsorted(known, rows), len(known) - 1)
        return take_rows(vector, places) if np.array_equal(known[places], rows) else None

    def _of_group(
        self, group: int, numbers: Sequence[int], rows: Array, token: CancelToken, progress: Progress
    ) -> _Fetched:
        """Return the rows of one group, which has some."""
        first, end = self._scan.groups()[group]
        wanted = rows[np.searchsorted(rows, first) : np.searchsorted(rows, end)]
        found: dict[int, list[FlatVector]] = {number: [] for number in numbers}
        for start, stop, vectors in self._scan.vectors_around(numbers, group, wanted, token):
            inside = wanted[(wanted >= start) & (wanted < stop)] - start
            for number in numbers:
                found[number].append(_taken(vectors[number], inside))
        progress.advance(1)
        return {number: join_vectors(parts) for number, parts in found.items()}


def _taken(vector: Vector, rows: Array) -> FlatVector:
    if isinstance(vector, CodedVector):
        texts = vector.dictionary.texts
        return plain_of([None if code < 0 else texts[code] for code in vector.codes[rows].tolist()])
    return take_rows(vector, rows)
