"""Gathering what is needed to count distinct values and find quartiles: sorted numbers, or counted texts."""

from __future__ import annotations

from dataclasses import field

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.text_keys import text_hashes
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector
from yardcut.core.table.window import Span


@dataclass(frozen=True, slots=True, eq=False)
class Gathered:
    """The present values of a column among some rows.

    ``values`` are numbers in any order, or 64-bit hashes of plain texts beside their ``row_ids``; ``counts`` tells
    how often each text of ``dictionary`` stands.
    """

    values: Array | None = None
    row_ids: Array | None = None
    dictionary: Dictionary | None = None
    counts: Array | None = None


_State = dict[int, Gathered]


@dataclass(frozen=True, slots=True, eq=False)
class GatherRound(Round[_State, Gathered]):
    """Gathers the present values of one expression over the members."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)

    def scan(self, table: Table, part: Part) -> _State:
        """Gather one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        mask = None if self.members is None else bit.unpack(self.members, part.first_row, part.end_row)
        if isinstance(vector, CodedVector):
            codes = vector.codes if mask is None else vector.codes[mask]
            counts = np.bincount(codes.astype(np.int64) + 1, minlength=len(vector.dictionary) + 1)[1:]
            return {part.first_row: Gathered(dictionary=vector.dictionary, counts=counts)}
        missing = vector.missing_mask()
        kept = mask
        if missing is not None:
            kept = ~missing if mask is None else mask & ~missing
        if isinstance(vector, NumericVector):
            values = vector.values if kept is None else vector.values[kept]
            return {part.first_row: Gathered(values=np.asarray(values))}
        hashes = text_hashes(vector)
        rows = np.arange(part.first_row, part.end_row, dtype=np.uint32)
        if kept is not None:
            hashes, rows = hashes[kept], rows[kept]
        return {part.first_row: Gathered(values=hashes, row_ids=rows)}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side, adding counts over one dictionary."""
        merged = dict(one)
        for start, found in other.items():
            if found.dictionary is not None:
                for at, known in merged.items():
                    if known.dictionary is found.dictionary and known.counts is not None and found.counts is not None:
                        merged[at] = Gathered(dictionary=known.dictionary, counts=known.counts + found.counts)
                        break
                else:
                    merged[start] = found
            else:
                merged[start] = found
        return merged

    def finish(self, state: _State) -> Gathered:
        """Join the parts."""
        found = [state[start] for start in sorted(state)]
        if found[0].dictionary is not None:
            totals: dict[str, int] = {}
            for some in found:
                assert some.dictionary is not None
                assert some.counts is not None
                for text, count in zip(some.dictionary.texts, some.counts.tolist(), strict=True):
                    totals[text] = totals.get(text, 0) + count
            return Gathered(dictionary=Dictionary(list(totals)), counts=np.array(list(totals.values()), dtype=np.int64))
        values = np.concatenate([some.values for some in found if some.values is not None])
        rows = [some.row_ids for some in found if some.row_ids is not None]
        return Gathered(values=values, row_ids=np.concatenate(rows) if rows else None)
