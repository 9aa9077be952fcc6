"""The groups of rows, however many there are: few are told apart by their values as they are met, many by sorting."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import overload

import numpy as np

from yardcut.core.language.meaning.bound import BoundValue, Key
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.grouping.groups import GroupKey, GroupRound, Groups, TooManyGroupsError, row_keys
from yardcut.core.ranking.grouping.neighbours import begins_of_runs
from yardcut.core.ranking.ordering.planning import plan_keys
from yardcut.core.ranking.ordering.sorting import sort_rows
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.large_arrays import zeros
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Scatter

_BLOCK_ROWS = 1 << 17


def find_groups(
    values: tuple[BoundValue, ...], rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None
) -> Groups:
    """Return the groups of a set of rows by some values, in order of first appearance."""
    try:
        return runner.run(GroupRound(values, rows.bits, rows.places), token)
    except TooManyGroupsError:
        return groups_by_sorting(values, rows, runner, token, progress)


def groups_by_sorting(
    values: tuple[BoundValue, ...], rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None
) -> Groups:
    """Return the groups of rows, with the number of each row's group: sorted, rows of one group stand side by side.

    The sort is stable, so that the first of a group's rows is the first in their present order.
    """
    table = runner.table
    plans = plan_keys(tuple(Key(value) for value in values), runner, token, progress, is_sorted=True)
    ordered = sort_rows(rows, plans, runner, token, progress)
    begins = begins_of_runs(values, ordered, table, token)
    places = np.flatnonzero(begins)
    first_ids = zeros(len(places), np.int64)
    for first, end in _blocks(rows.count):
        some = slice(*np.searchsorted(places, (first, end)))
        first_ids[some] = ordered.ids(first, end)[places[some] - first]
    by_appearance = np.argsort(first_ids if rows.places is None else rows.places[first_ids], kind="stable")
    number_of = zeros(len(places), np.uint32)
    number_of[by_appearance] = np.arange(len(places), dtype=np.uint32)
    numbers, group = zeros(table.rows, np.uint32), -1
    for first, end in _blocks(rows.count):
        groups = group + np.cumsum(begins[first:end])
        numbers[ordered.ids(first, end)] = number_of[groups]
        group = int(groups[-1])
    counts = np.diff(np.append(places, rows.count))
    return Groups(KeysOfRows(values, table, first_ids[by_appearance]), counts[by_appearance], numbers)


def _blocks(count: int) -> Iterator[tuple[int, int]]:
    for first in range(0, count, _BLOCK_ROWS):
        yield first, min(first + _BLOCK_ROWS, count)


class KeysOfRows(Sequence[GroupKey]):
    """The keys of groups, each read from a row of its group when it is asked for."""

    def __init__(self, values: tuple[BoundValue, ...], table: Table, row_ids: Array) -> None:
        self._values, self._table, self._row_ids = values, table, row_ids

    def __len__(self) -> int:
        return len(self._row_ids)

    def window(self, first: int, end: int) -> Scatter:
        """Return the first rows of some groups."""
        return Scatter(self._table, self._row_ids[first:end])

    @overload
    def __getitem__(self, place: int) -> GroupKey: ...

    @overload
    def __getitem__(self, place: slice) -> tuple[GroupKey, ...]: ...

    def __getitem__(self, place: int | slice) -> GroupKey | tuple[GroupKey, ...]:
        if isinstance(place, slice):
            return tuple(row_keys(self._values, Scatter(self._table, self._row_ids[place])))
        return row_keys(self._values, Scatter(self._table, self._row_ids[place : place + 1]))[0]

    def __iter__(self) -> Iterator[GroupKey]:
        for start in range(0, len(self), _BLOCK_ROWS):
            yield from self[start : start + _BLOCK_ROWS]
