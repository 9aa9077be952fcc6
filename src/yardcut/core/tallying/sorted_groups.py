"""The present values of each group side by side, in order: what a median, a quantile and distinct values need."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import field, replace

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_known import BIT_A_ROW, ONE_A_ROW
from yardcut.core.profile.members import members_with_values
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Round
from yardcut.core.scanning.row_parts import Part
from yardcut.core.settings.threads import block_threads
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector
from yardcut.core.table.window import Span

_MANY_VALUES = 1 << 20
"""So many are put in order on several threads."""
_FEW = 1 << 13
"""So many groups are told apart part by part, on every thread; of more, a part would have a few rows of each."""


@dataclass(frozen=True, slots=True, eq=False)
class PartValues:
    """Present values of a part: numbers, or codes of a dictionary. They are beside the ``numbers`` of their groups, or
    they stand by their groups: then ``begins`` (int64, one more than there are groups) says where each does.
    """

    first_row: int
    values: Array
    numbers: Array | None = None
    begins: Array | None = None
    dictionary: Dictionary | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Gathered:
    """The present values of all parts, in the table's order; codes are those of ``texts``."""

    parts: list[PartValues]
    texts: tuple[str, ...] = ()

    def in_groups(self, groups: int) -> tuple[Array, Array]:
        """Return the values ordered within each group (:func:`numpy.sort`'s order), and where each group begins.

        The array of beginnings has ``groups + 1`` entries (int64).
        """
        begins = [part.begins for part in self.parts if part.begins is not None]
        if begins:
            return self._put_together(begins)
        numbers = np.concatenate([part.numbers for part in self.parts if part.numbers is not None])
        values = np.concatenate([part.values for part in self.parts])
        ends = np.concatenate(([0], np.cumsum(np.bincount(numbers, minlength=groups))))
        return values[np.lexsort((values, numbers))], ends

    def _put_together(self, begins: list[Array]) -> tuple[Array, Array]:
        """Put the values of each group side by side, and in order while they are at hand."""
        ends = np.sum(begins, axis=0)
        values = np.empty(int(ends[-1]), np.result_type(*(part.values.dtype for part in self.parts)))
        places, taken = ends.tolist(), [part.values for part in self.parts]
        bounds = np.stack(begins, axis=1).tolist()

        def put(groups: range) -> None:
            for group in groups:
                own = values[places[group] : places[group + 1]]
                pairs = zip(taken, bounds[group], bounds[group + 1], strict=True)
                np.concatenate([some[first:end] for some, first, end in pairs], out=own)
                own.sort()

        threads = block_threads() if len(values) >= _MANY_VALUES else 1
        with ThreadPoolExecutor(threads, thread_name_prefix="order") as pool:
            for _ in pool.map(put, [range(first, len(places) - 1, threads) for first in range(threads)]):
                pass
        return values, ends


def _order_by(numbers: Array) -> Array:
    """Return the rows of a part by their groups, as they stand within each.

    A group and a row are put in one integer: sorting those is several times as fast as sorting places by groups.
    """
    bits = len(numbers).bit_length()
    wide = np.dtype(np.uint32 if bits + _FEW.bit_length() <= 32 else np.uint64)
    packed = numbers.astype(wide)
    packed <<= wide.type(bits)
    packed |= np.arange(len(numbers), dtype=wide)
    packed.sort()
    packed &= wide.type((1 << bits) - 1)
    return packed.astype(np.int64)


@dataclass(frozen=True, slots=True, eq=False)
class GatherByGroupRound(Round[list[PartValues], Gathered]):
    """Gathers the present values of an expression over the members of some groups."""

    value: BoundValue
    members: Array | None = field(metadata=BIT_A_ROW)
    numbers: Array = field(metadata=ONE_A_ROW)
    groups: int

    def scan(self, table: Table, part: Part) -> list[PartValues]:
        """Gather one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        kept: Array | slice = slice(None)
        if self.members is not None or vector.missing_mask() is not None:
            kept = members_with_values(vector, self.members, part)
        numbers, dictionary = self.numbers[part.first_row : part.end_row][kept], None
        if isinstance(vector, NumericVector):
            values = vector.values[kept]
            values = values + 0.0 if values.dtype.kind == "f" else values
        elif isinstance(vector, CodedVector):
            values, dictionary = vector.codes[kept], vector.dictionary
        else:
            texts, seen = vector.texts(), dict[str, int]()
            rows = np.arange(part.rows)[kept].tolist()
            codes = [seen.setdefault(texts[row] or "", len(seen)) for row in rows]
            values, dictionary = np.array(codes, np.int64), Dictionary(list(seen))
        if self.groups > _FEW:
            return [PartValues(part.first_row, values, numbers, None, dictionary)]
        begins = np.concatenate(([0], np.cumsum(np.bincount(numbers, minlength=self.groups))))
        return [PartValues(part.first_row, values[_order_by(numbers)], None, begins, dictionary)]

    def merge(self, one: list[PartValues], other: list[PartValues]) -> list[PartValues]:
        """Put parts side by side."""
        return [*one, *other]

    def finish(self, state: list[PartValues]) -> Gathered:
        """Put the parts in the table's order; texts get one set of codes, by code point."""
        parts = sorted(state, key=lambda part: part.first_row)
        words = {id(part.dictionary): part.dictionary.texts for part in parts if part.dictionary is not None}
        if not words:
            return Gathered(parts)
        texts = tuple(sorted(set().union(*words.values())))
        place = {text: code for code, text in enumerate(texts)}
        lookups = {key: np.array([place[word] for word in each], np.int64) for key, each in words.items()}
        return Gathered(
            [replace(part, values=_looked_up(lookups[id(part.dictionary)], part.values)) for part in parts], texts
        )


def _looked_up(codes: Array, values: Array) -> Array:
    return codes[values] if len(values) else np.zeros(0, np.int64)
