"""Which row of a second table each row finds: one number a row."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.matching.key_index import KeyIndex
from yardcut.core.matching.latest_rows import LatestRows
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.text_keys import TextKeys
from yardcut.core.table.vectors import CodedVector, NumericVector
from yardcut.core.table.window import Span

_State = list[tuple[int, Array, Array | None]]
_FEW = 1 << 16


@dataclass(frozen=True, slots=True, eq=False)
class Found:
    """What each row finds: ``numbers`` (uint32); where these are few ``counts`` (int64), the rows of each."""

    numbers: Array
    counts: Array | None


@dataclass(frozen=True, slots=True, eq=False)
class MatchRound(Round[_State, Found]):
    """Looks every row up: for each the number of its key, or with ``latest`` the row found; ``nothing`` where none is,
    and one more where one of its own values is missing.
    """

    keys: tuple[BoundValue, ...]
    index: KeyIndex
    nothing: int
    moment: BoundValue | None = None
    latest: LatestRows | None = None

    def scan(self, table: Table, part: Part) -> _State:
        """Look up the rows of one part."""
        window = Span(table, part.first_row, part.end_row)
        vectors = [evaluate(key, window) for key in self.keys]
        if self.latest is None and len(vectors) == 1 and isinstance(vectors[0], CodedVector):
            return [self._counted(part, self._of_codes(vectors[0]))]
        found = self.index.find(vectors)
        if self.latest is not None and self.moment is not None:
            moments = evaluate(self.moment, window)
            assert isinstance(moments, NumericVector)
            found = self.latest.find(found, moments)
            vectors.append(moments)
        found = np.where(found < 0, self.nothing, found)
        for vector in vectors:
            gone = vector.missing_mask()
            if gone is not None:
                found[gone] = self.nothing + 1
        return [self._counted(part, found.astype(np.uint32))]

    def _counted(self, part: Part, found: Array) -> tuple[int, Array, Array | None]:
        counts = np.bincount(found, minlength=self.nothing + 2) if self.nothing < _FEW else None
        return part.first_row, found, counts

    def _of_codes(self, vector: CodedVector) -> Array:
        """Look up the words of a column once, and its rows by their codes."""
        keys = self.index.columns[0]
        assert isinstance(keys, TextKeys)
        words = keys.of_words(vector.dictionary)
        numbers = np.empty(len(words) + 1, np.uint32)
        numbers[:-1] = np.where(words < 0, self.nothing, words)
        numbers[-1] = self.nothing + 1
        return numbers[vector.codes]

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return [*one, *other]

    def finish(self, state: _State) -> Found:
        """Join the parts in the table's order."""
        numbers = np.concatenate([found for _, found, _ in sorted(state, key=lambda part: part[0])])
        counts = [counts for _, _, counts in state if counts is not None]
        return Found(numbers, np.sum(counts, axis=0) if len(counts) == len(state) else None)
