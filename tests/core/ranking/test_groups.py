from __future__ import annotations

import numpy as np
import pytest

from helpers import WriteTable
from yardcut.core.language.bound import BoundValue, ColumnValue
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.groups import GroupRound, group_numbers
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.parts import BLOCK_ROWS
from yardcut.core.table import bits as bit
from yardcut.core.table.table import Table
from yardcut.core.values.kinds import Kind

ROWS = [
    [f"w{(row * 31) % 7}" if row % 11 else None, row % 3 if row % 5 else None, (row % 4) / 2, f"x{row * 7919 % 1500}"]
    for row in range(3000)
]
VALUES: list[tuple[BoundValue, ...]] = [
    (ColumnValue(0, Kind.TEXT, "word"),),
    (ColumnValue(1, Kind.INTEGER, "n"),),
    (ColumnValue(0, Kind.TEXT, "word"), ColumnValue(2, Kind.NUMBER, "half")),
    (ColumnValue(3, Kind.TEXT, "many"),),
    (ColumnValue(3, Kind.TEXT, "many"), ColumnValue(0, Kind.TEXT, "word"), ColumnValue(1, Kind.INTEGER, "n")),
]


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["word", "n", "half", "many"], ROWS)


def key_of(row: int, values: tuple[BoundValue, ...]) -> tuple[object, ...]:
    return tuple(ROWS[row][value.column] for value in values)  # type: ignore[attr-defined]


@pytest.mark.parametrize("values", VALUES)
@pytest.mark.parametrize("some", [False, True])
def test_groups_counts_and_numbers_are_those_of_a_dictionary(
    table: Table, values: tuple[BoundValue, ...], some: bool
) -> None:
    chosen = [row for row in range(3000) if not some or row % 3 == 1]
    members = bit.of_ids(np.array(chosen), 3000) if some else None
    expected: dict[tuple[object, ...], int] = {}
    for row in chosen:
        expected[key_of(row, values)] = expected.get(key_of(row, values), 0) + 1
    groups = LocalRunner(table, BLOCK_ROWS, 1).run(GroupRound(values, members), CancelToken())
    assert dict(zip(groups.keys, groups.counts.tolist(), strict=True)) == expected
    assert list(groups.keys) == list(expected)  # in order of first appearance
    numbers = group_numbers(values, table, 0, 3000, bit.positions(members, 0, 3000), groups.index(), {})
    assert [groups.keys[number] for number in numbers.tolist()] == [key_of(row, values) for row in chosen]


def test_groups_come_in_the_order_the_rows_have(table: Table) -> None:
    places = np.arange(3000, dtype=np.uint32)[::-1].copy()
    found = LocalRunner(table, BLOCK_ROWS, 1).run(GroupRound(VALUES[0], None, places), CancelToken())
    assert list(found.keys) == list(dict.fromkeys(key_of(row, VALUES[0]) for row in reversed(range(3000))))


def test_no_members_are_no_groups(table: Table) -> None:
    none = np.zeros(375, dtype=np.uint8)
    found = LocalRunner(table, BLOCK_ROWS, 1).run(GroupRound(VALUES[0], none), CancelToken())
    assert (found.keys, len(found.counts)) == ((), 0)
