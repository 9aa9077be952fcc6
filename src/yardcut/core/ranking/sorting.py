"""Putting rows in order: keys are packed while scanning, sorted once at the end."""

from __future__ import annotations

import os
from dataclasses import dataclass

import numpy as np

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.fields import Field, KeyPlan
from yardcut.core.ranking.hashing import table_ranks
from yardcut.core.ranking.packing import pack_words, position_bits, sort_packed
from yardcut.core.scanning.parts import Part
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table

_State = dict[int, list[Field]]

MEMORY_BYTES, MEMORY_VARIABLE = 1_000_000_000, "YARDCUT_SORT_BYTES"
"""Of memory for one sort, unless the environment says otherwise."""
_WORD_BITS = 40
"""Of a word beside the position of a row."""


@dataclass(frozen=True, slots=True, eq=False)
class WordsRound(Round[_State, list[Field]]):
    """Encodes the keys of the members of a set of rows, in source order, as packed words of ``word_bits``.

    Without keys the words are the rows' ranks by chance under ``seed``. ``places`` are the rows' present positions,
    which are then the last key.
    """

    plans: tuple[KeyPlan, ...]
    members: Array | None
    seed: int | None = None
    word_bits: int = 64
    places: Array | None = None

    def scan(self, table: Table, part: Part) -> _State:
        """Encode one part."""
        fields = fields_of(self.plans, table, part.first_row, part.end_row, self.seed)
        if self.places is not None:
            fields.append((self.places[part.first_row : part.end_row].astype(np.uint64), 32))
        if self.members is not None:
            mask = bit.unpack(self.members, part.first_row, part.end_row)
            fields = [(values[mask], bits) for values, bits in fields]
        return {part.first_row: [_narrow(word) for word in pack_words(fields, self.word_bits)]}

    def merge(self, one: _State, other: _State) -> _State:
        """Put parts side by side."""
        one.update(other)
        return one

    def finish(self, state: _State) -> list[Field]:
        """Join the parts in the source's order, letting each go as it is copied."""
        starts = sorted(state)
        widths = [bits for _, bits in state[starts[0]]]
        joined: list[Field] = []
        for bits in widths:
            joined.append((np.concatenate([state[start].pop(0)[0] for start in starts]), bits))
        return joined


def _narrow(word: Field) -> Field:
    """Keep a word of few bits in half the memory."""
    values, bits = word
    return (values.astype(np.uint32), bits) if bits <= 32 else word


def sort_rows(
    rows: RowSet, plans: tuple[KeyPlan, ...], runner: Runner, token: CancelToken,
    progress: Progress | None = None, seed: int | None = None,
) -> RowSet:  # fmt: skip
    """Return the rows in the order of their keys; equal rows stay as they were.

    What would take more memory than is to be had is sorted on disk. Raises ``SourceError`` where that has no room.
    """
    a_row = bytes_a_row(plans, rows, runner.table, seed)
    if rows.count * a_row > memory_bytes():
        from yardcut.core.ranking.sorting_large import sort_large

        return sort_large(rows, plans, runner.table, memory_bytes() // (2 * a_row), token, progress, seed)
    if progress is not None:
        progress.begin("encoding", runner.table.rows)
    word_bits = 64 - position_bits(rows.count)
    words = runner.run(WordsRound(plans, rows.bits, seed, word_bits, rows.places), token, progress)
    token.check()
    if progress is not None:
        progress.begin("sorting", 0)
    order = sort_packed(words, rows.count)
    token.check()
    ids = order if rows.bits is None else RowSet(rows.table_rows, rows.bits).ids(0, rows.count)[order]
    return RowSet(rows.table_rows, rows.bits, ids)


def memory_bytes() -> int:
    """Return how much memory a sort may take."""
    return int(os.environ.get(MEMORY_VARIABLE, MEMORY_BYTES))


def fields_of(plans: tuple[KeyPlan, ...], table: Table, first_row: int, end_row: int, seed: int | None) -> list[Field]:
    """Return the key of some rows of the source as fields."""
    if seed is not None:
        return [(table_ranks(seed, table, first_row, end_row), 64)]
    return [field for plan in plans for field in plan.fields(table, first_row, end_row)]


def bytes_a_row(plans: tuple[KeyPlan, ...], rows: RowSet, table: Table, seed: int | None) -> int:
    """Return about how much memory sorting takes for each row: its words, and three more while they are sorted."""
    bits = sum(bits for _, bits in fields_of(plans, table, 0, min(1, table.rows), seed))
    return 8 * (-(-(bits + (0 if rows.order is None else 32)) // _WORD_BITS) + 3)
