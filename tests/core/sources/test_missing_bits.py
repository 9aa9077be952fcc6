"""The bits of missing values kept beside every column, against the values themselves."""

from __future__ import annotations

import numpy as np
import pytest

from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table import bits as bit
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

ROWS = 4001
HEADER = "whole,real,day,at,yes,few,many,full"


def cells(row: int) -> list[str]:
    gone = row % 7 == 3
    return [
        "" if gone else str(row),
        "" if row % 5 == 1 else f"{row / 8}",
        "" if gone else f"2031-03-{row % 28 + 1:02d}",
        "" if gone else f"2031-03-{row % 28 + 1:02d} 10:{row % 60:02d}:00",
        "" if gone else ("true" if row % 2 else "false"),
        "" if row % 11 == 2 else f"w{row % 4}",
        "" if row % 3 == 0 else f"text {row}",
        str(row),
    ]


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    folder = tmp_path_factory.mktemp("missing")
    first, second = folder / "a.csv", folder / "b.csv"
    first.write_text("\n".join([HEADER, *(",".join(cells(row)) for row in range(2501))]) + "\n")
    # the second file lacks a column and has another order
    names = HEADER.split(",")[::-1]
    lines = [",".join(dict(zip(HEADER.split(","), cells(row), strict=True))[name] for name in names[:-1])
             for row in range(2501, ROWS)]  # fmt: skip
    second.write_text("\n".join([",".join(names[:-1]), *lines]) + "\n")
    return open_table(SourceSpec.of(first, second))


def test_the_columns_are_of_every_kind(table: Table) -> None:
    assert [column.kind for column in table.columns] == [
        Kind.INTEGER, Kind.NUMBER, Kind.DATE, Kind.TIMESTAMP, Kind.BOOLEAN, Kind.TEXT, Kind.TEXT, Kind.INTEGER,
    ]  # fmt: skip
    assert [column.info.storage for column in table.columns[5:7]] == ["codes", "plain"]


@pytest.mark.parametrize("number", range(8))
def test_bits_counts_and_texts_agree(table: Table, number: int) -> None:
    column = table.columns[number]
    names = HEADER.split(",")
    expected = [
        not dict(zip(names, cells(row), strict=True))[column.name] or (row > 2500 and column.name == "whole")
        for row in range(ROWS)
    ]
    assert column.info.missing == sum(expected)
    found = column.missing_bits(0, ROWS)
    if not any(expected):
        assert found is None
        assert column.slice(0, ROWS).missing_mask() is None
        return
    assert found is not None
    assert bit.unpack(found, 0, ROWS).tolist() == expected
    assert [text is None for text in column.slice(5, 90).texts()] == expected[5:90]
    rows = np.array([2999, 3, 17, 1, 2502])
    assert [text is None for text in column.take(rows).texts()] == [expected[row] for row in rows.tolist()]


def test_no_byte_of_validity_is_left_behind(table: Table) -> None:
    assert not list(table.folder.glob("*.valid"))
    parts = [{check.part for check in column.info.checks} for column in table.columns]
    assert ["missing" in some for some in parts] == [number < 7 for number in range(len(parts))]
    assert not any({"valid", "there"} & some for some in parts)
