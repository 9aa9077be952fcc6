"""The present values of each group side by side, in order: what a median, a quantile and distinct values need."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.profile.members import members_with_values
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.table import Table
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector
from yardcut.core.table.window import Span

_FEW = 1 << 16


@dataclass(frozen=True, slots=True, eq=False)
class Gathered:
    """Present values (numbers, or codes of ``texts``) beside the numbers of their groups."""

    numbers: Array
    values: Array
    texts: tuple[str, ...] = ()

    def in_groups(self, groups: int) -> tuple[Array, Array]:
        """Return the values ordered within each group (:func:`numpy.sort`'s order), and where each group begins.

        The array of beginnings has ``groups + 1`` entries (int64).
        """
        ends = np.concatenate(([0], np.cumsum(np.bincount(self.numbers, minlength=groups))))
        if groups == 1:
            return np.sort(self.values), ends
        if groups > _FEW:
            return self.values[np.lexsort((self.values, self.numbers))], ends
        values = self.values[_order_by(self.numbers)]
        for first, end in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True):
            values[first:end].sort()
        return values, ends


def _order_by(numbers: Array) -> Array:
    """Return the rows by their groups (uint32), as they stand within each.

    A group and a row are put in one integer: sorting those is several times as fast as sorting places by groups.
    """
    packed = numbers.astype(np.uint64) << np.uint64(32)
    packed |= np.arange(len(numbers), dtype=np.uint64)
    packed.sort()
    return (packed & np.uint64(0xFFFFFFFF)).astype(np.int64)


_State = list[tuple[int, Array, Array, Dictionary | None]]


@dataclass(frozen=True, slots=True, eq=False)
class GatherByGroupRound(Round[_State, Gathered]):
    """Gathers the present values of an expression over the members."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)
    numbers: Array = field(metadata=ONE_A_ROW)

    def scan(self, table: Table, part: Part) -> _State:
        """Gather one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        kept = members_with_values(vector, self.members, part)
        numbers = self.numbers[part.first_row : part.end_row][kept]
        if isinstance(vector, NumericVector):
            values = vector.values[kept]
            return [(part.first_row, numbers, values + 0.0 if values.dtype.kind == "f" else values, None)]
        if isinstance(vector, CodedVector):
            return [(part.first_row, numbers, vector.codes[kept], vector.dictionary)]
        texts = vector.texts()
        seen: dict[str, int] = {}
        codes = [seen.setdefault(texts[row] or "", len(seen)) for row in np.flatnonzero(kept).tolist()]
        return [(part.first_row, numbers, np.array(codes, np.int64), Dictionary(list(seen)))]

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        return [*one, *other]

    def finish(self, state: _State) -> Gathered:
        """Join the parts; texts get one set of codes, by code point."""
        parts = sorted(state, key=lambda part: part[0])
        numbers = np.concatenate([part[1] for part in parts])
        if parts[0][3] is None:
            return Gathered(numbers, np.concatenate([part[2] for part in parts]))
        words = {id(part[3]): part[3].texts for part in parts if part[3] is not None}
        texts = tuple(sorted(set().union(*words.values())))
        place = {text: code for code, text in enumerate(texts)}
        lookups = {key: np.array([place[word] for word in each], np.int64) for key, each in words.items()}
        values = [lookups[id(part[3])][part[2]] if len(part[2]) else np.zeros(0, np.int64) for part in parts]
        return Gathered(numbers, np.concatenate(values), texts)
