"""The place of each row's text in code point order, for columns of many long texts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.testing.text_tests import prefixes
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.ranking.grouping.neighbours import begins_of_runs
from yardcut.core.ranking.ordering.fields import KeyPlan, TailRanks
from yardcut.core.ranking.ordering.sorting import sort_rows
from yardcut.core.scanning.rounds import Round, Runner
from yardcut.core.scanning.row_parts import Part
from yardcut.core.table.array_file import Array
from yardcut.core.table.copying_arrays import copy_texts
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import PlainVector, gather_plain
from yardcut.core.table.window import Span


def rank_rows(plan: KeyPlan, runner: Runner, token: CancelToken) -> tuple[Array, int]:
    """Return a dense rank (uint32) for every row of the table by a key of texts, and the number of ranks.

    The rows are sorted upwards, by the same means as any order, and neighbours that differ begin a rank.
    """
    table = runner.table
    upwards = replace(plan, key=replace(plan.key, descending=False))
    ordered = sort_rows(RowSet(table.rows), (upwards,), runner, token)
    begins = begins_of_runs((plan.key.value,), ordered, table, token)
    ranks = np.empty(table.rows, dtype=np.uint32)
    ranks[ordered.ids(0, table.rows)] = np.cumsum(begins) - 1
    return ranks, int(np.count_nonzero(begins))


def rank_tails(value: BoundValue, skip: int, runner: Runner, token: CancelToken) -> TailRanks | None:
    """Return the ranks of what texts have behind their first ``skip`` bytes; ``None`` where none has."""
    found = runner.run(TailRound(value, skip), token)
    if found is None:
        return None
    ranks, count = rank_texts(found.texts, token)
    return TailRanks(found.row_ids, ranks + 1, count)


@dataclass(frozen=True, slots=True, eq=False)
class Tails:
    """What texts have behind their first bytes, and the rows they are of (int64, ascending)."""

    row_ids: Array
    texts: PlainVector


@dataclass(frozen=True, slots=True)
class TailRound(Round[dict[int, Tails], Tails | None]):
    """Gathers what texts have behind their first ``skip`` bytes, of those rows that have anything there."""

    value: BoundValue
    skip: int

    def scan(self, table: Table, part: Part) -> dict[int, Tails]:
        """Look at one part."""
        vector = evaluate(self.value, Span(table, part.first_row, part.end_row))
        assert isinstance(vector, PlainVector)
        rows = np.flatnonzero(vector.lengths() > self.skip)
        starts = np.asarray(vector.offsets[rows], dtype=np.int64) + self.skip
        sizes = np.asarray(vector.offsets[rows + 1], dtype=np.int64) - starts
        offsets = np.concatenate(([0], np.cumsum(sizes)))
        data = np.empty(int(offsets[-1]), dtype=np.uint8)
        copy_texts(vector.data, starts, sizes, data, offsets[:-1])
        return {part.first_row: Tails(rows + part.first_row, PlainVector(offsets, data))}

    def merge(self, one: dict[int, Tails], other: dict[int, Tails]) -> dict[int, Tails]:
        """Put parts side by side."""
        return one | other

    def finish(self, state: dict[int, Tails]) -> Tails | None:
        """Join the parts in the table's order."""
        parts = [state[first] for first in sorted(state) if len(state[first].row_ids)]
        if not parts:
            return None
        shifts = np.cumsum([0, *(int(each.texts.offsets[-1]) for each in parts)])
        offsets = [each.texts.offsets[1:] + shift for each, shift in zip(parts, shifts.tolist(), strict=False)]
        texts = PlainVector(np.concatenate(([0], *offsets)), np.concatenate([each.texts.data for each in parts]))
        return Tails(np.concatenate([each.row_ids for each in parts]), texts)


def rank_texts(vector: PlainVector, token: CancelToken) -> tuple[Array, int]:
    """Return a dense rank (int64) for every text, equal ones alike, and the number of ranks; all of it in memory.

    Most significant first: rows are ordered by eight bytes of text, and only those that still tie are looked at
    further along. Complexity: O(n log n) for the first eight bytes, then only over ties.
    """
    rows = np.arange(len(vector), dtype=np.int64)
    group = np.zeros(len(vector), dtype=np.int64)
    active = rows
    skip = 0
    sizes = vector.lengths()
    while len(active):
        token.check()
        some = vector if active is rows else gather_plain(vector, active)
        word = prefixes(some, skip)
        # a text that ends here comes before one that goes on with a zero byte
        left = np.minimum(np.maximum(sizes[active] - skip, 0), 9)
        order = np.lexsort((left, word, group[active]))
        ordered = active[order]
        old, new_word, new_left = group[ordered], word[order], left[order]
        starts = np.ones(len(ordered), dtype=np.bool_)
        starts[1:] = (old[1:] != old[:-1]) | (new_word[1:] != new_word[:-1]) | (new_left[1:] != new_left[:-1])
        # groups are numbered by the place of their first row, so that refined ones stay between their neighbours
        first_of_old = np.ones(len(ordered), dtype=np.bool_)
        first_of_old[1:] = old[1:] != old[:-1]
        positions = np.arange(len(ordered))
        offset = positions - np.maximum.accumulate(np.where(first_of_old, positions, 0))
        last_start = np.maximum.accumulate(np.where(starts, positions, 0))
        group[ordered] = old + offset[last_start]
        tied = ~starts
        tied[:-1] |= ~starts[1:]
        active = ordered[tied & (new_left > 8)]
        skip += 8
    present = np.zeros(len(vector) + 1, dtype=np.bool_)
    present[group] = True
    ranks = np.cumsum(present) - 1
    return ranks[group], int(ranks[-1]) + 1
