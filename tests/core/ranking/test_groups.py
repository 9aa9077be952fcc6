"""Groups of rows, told apart by their values and by sorting, are those of a plain dictionary."""

from __future__ import annotations

import numpy as np
import pytest

from helpers import WriteTable, run_lines
from yardcut.core.language.meaning.bound import BoundValue, ColumnValue
from yardcut.core.progress import CancelToken
from yardcut.core.ranking.grouping import groups as groups_module
from yardcut.core.ranking.grouping.many_groups import find_groups, groups_by_sorting
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet, ordered
from yardcut.core.table.stored_table import Table
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


@pytest.fixture(params=[1 << 16, 2], ids=["by value", "by sorting"])
def most_by_value(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(groups_module, "_MOST_BY_VALUE", request.param)


@pytest.mark.few(7)
@pytest.mark.usefixtures("most_by_value")
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
    groups = find_groups(values, RowSet(3000, members), LocalRunner(table, BLOCK_ROWS, 1), CancelToken())
    assert dict(zip(groups.keys, groups.counts.tolist(), strict=True)) == expected
    assert list(groups.keys) == list(expected)  # in order of first appearance
    assert tuple(groups.keys[:2]) == tuple(expected)[:2]
    numbers = groups.of_rows(values, table, 0, 3000, bit.positions(members, 0, 3000))
    assert [groups.keys[number] for number in numbers.tolist()] == [key_of(row, values) for row in chosen]


@pytest.mark.usefixtures("most_by_value")
def test_groups_come_in_the_order_the_rows_have(table: Table) -> None:
    backwards = ordered(np.arange(3000, dtype=np.uint32)[::-1], 3000)
    found = find_groups(VALUES[0], backwards, LocalRunner(table, BLOCK_ROWS, 1), CancelToken())
    assert list(found.keys) == list(dict.fromkeys(key_of(row, VALUES[0]) for row in reversed(range(3000))))


def test_no_members_are_no_groups(table: Table) -> None:
    none = np.zeros(375, dtype=np.uint8)
    for find in (find_groups, groups_by_sorting):
        found = find(VALUES[0], RowSet(3000, none), LocalRunner(table, BLOCK_ROWS, 1), CancelToken())
        assert (list(found.keys), len(found.counts)) == ([], 0)


DRAWS = [
    "draw first 2 per many", "draw random 1 per many, word seed 3", "draw stratified 900 per many seed 4", "draw random 50 percent per many seed 5",
    "draw part 2 of 30, 30, 40 percent per many seed 1", "draw every 2 per many", "draw top 1 by n per many with ties", "draw random 2 with replacement per many seed 2",
    "draw stratified per word sizes 'w1' 20, 'w3' 3, others 1 seed 2", "draw random 1 per half seed 1 remainder",
]  # fmt: skip


@pytest.mark.few(7)
@pytest.mark.parametrize("line", DRAWS)
@pytest.mark.parametrize("above", [(), ("order half DESC", "keep n IS NOT NULL")])
def test_draws_of_many_groups_are_those_of_few(
    table: Table, monkeypatch: pytest.MonkeyPatch, line: str, above: tuple[str, ...]
) -> None:
    found = []
    for most in (1 << 16, 2):
        monkeypatch.setattr(groups_module, "_MOST_BY_VALUE", most)
        result = run_lines(table, *above, line)[-1]
        strata = [(each.label, each.there, each.asked, each.drawn) for each in result.strata]
        found.append((result.rows.ids(0, 9999).tolist(), result.notes, strata))
    assert found[0] == found[1]
