"""Few rows from all over large Parquet files: the cells another reader has, nothing stored, until reading whole is better."""

from __future__ import annotations

import datetime
import random
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from pyarrow import parquet

from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources import on_demand
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.table.window import Scatter
from yardcut.core.values.kinds import Kind

SIZES = (40_000, 0, 33_000, 1)
GROUP = 3_000
START = datetime.datetime(2031, 3, 1, tzinfo=datetime.UTC)


def row(number: int) -> dict[str, Any]:
    return {
        "ticket": None if number % 13 == 5 else f"{number:05d}-É",
        "species": None if number % 9 == 4 else ("oak", "ash", "", "yew")[number % 4],
        "boards": None if number % 7 == 2 else number * 3,
        "moisture": None if number % 11 == 1 else number / 4,
        "felled_on": None if number % 17 == 3 else datetime.date(2031, 1, 1) + datetime.timedelta(number % 300),
        "at": START + datetime.timedelta(minutes=number),
        "reserved": None if number % 5 == 0 else number % 2 == 0,
    }


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder, first = tmp_path_factory.mktemp("scattered"), 0
    for at, count in enumerate(SIZES):
        rows = [row(number) for number in range(first, first + count)]
        schema = pa.schema(
            [("ticket", pa.string()), ("species", pa.string()), ("boards", pa.int64()), ("moisture", pa.float64()),
             ("felled_on", pa.date32()), ("at", pa.timestamp("us", tz="Europe/Berlin")), ("reserved", pa.bool_())]
        )  # fmt: skip
        parquet.write_table(pa.Table.from_pylist(rows, schema), folder / f"{at}.parquet", row_group_size=GROUP)
        first += count
    return folder


def linked(folder: Path, place: Path) -> Table:
    """Return the same files elsewhere: nobody has read a column of them."""
    place.mkdir()
    for path in folder.glob("*.parquet"):
        (place / path.name).hardlink_to(path)
    return open_table(SourceSpec.of(place / "*.parquet"))


@pytest.fixture
def table(folder: Path, tmp_path: Path) -> Table:
    return linked(folder, tmp_path / "files")


def unread(table: Table) -> bool:
    return not any(column.is_loaded for column in table.columns)


def texts_of(table: Table, ids: list[int]) -> list[tuple[str | None, ...]]:
    window = Scatter(table, np.array(ids))
    return list(zip(*(window.column(number).texts() for number in range(len(table.columns))), strict=True))


def as_texts(number: int) -> tuple[str | None, ...]:
    """Say what another reader has as the program writes it."""
    found = row(number)
    moisture = found["moisture"]
    return (
        found["ticket"], found["species"], None if found["boards"] is None else str(found["boards"]),
        None if moisture is None else repr(moisture).removesuffix(".0"),
        None if found["felled_on"] is None else found["felled_on"].isoformat(),
        "",
        None if found["reserved"] is None else str(found["reserved"]).lower(),
    )  # fmt: skip


@pytest.mark.few(3)
@pytest.mark.parametrize("seed", range(8))
def test_the_rows_are_those_of_the_files_and_nothing_is_stored(
    table: Table, folder: Path, tmp_path: Path, seed: int
) -> None:
    chance = random.Random(seed)
    ids = [chance.randrange(sum(SIZES)) for _ in range(chance.choice((9, 40, 600)))] + [0, sum(SIZES) - 1]
    chance.shuffle(ids)
    table.fetch(range(len(table.columns)), np.array(ids), CancelToken())
    found = texts_of(table, ids)
    assert unread(table)
    assert table.columns[5].kind is Kind.INSTANT
    for number, cells in zip(ids, found, strict=True):
        assert cells[:5] + cells[6:] == as_texts(number)[:5] + as_texts(number)[6:], number
    whole = linked(folder, tmp_path / "whole")
    whole.load(range(len(whole.columns)), CancelToken())
    assert texts_of(whole, ids) == found


def test_what_is_asked_for_again_and_again_is_read_whole_in_the_end(table: Table) -> None:
    """It costs no more than reading it whole by then, and pages that come after are at once."""
    firsts = [first for first, end in table.group_scan().groups() if end > first]
    asked = 0
    while unread(table):
        ids = np.array(firsts[asked : asked + 9])
        table.fetch([0, 2], ids, CancelToken())
        asked += 1
        assert asked < 9
        assert Scatter(table, ids).column(2).texts() == [as_texts(number)[2] for number in ids.tolist()]
    assert (asked - 1) * 9 <= len(table.group_scan().groups()) < asked * 9
    assert [column.is_loaded for column in table.columns] == [True, False, True, False, False, False, False]


def test_more_rows_than_make_a_page_are_no_few(table: Table) -> None:
    table.fetch([0], np.arange(0, sum(SIZES), 3), CancelToken())
    assert table.columns[0].is_loaded


def test_it_can_be_stopped(table: Table) -> None:
    token = CancelToken()
    token.cancel()
    with pytest.raises(StoppedError):
        table.fetch([0], np.arange(0, sum(SIZES), 3_000), token, Progress())
    assert unread(table)


def test_a_file_that_is_gone_is_named(folder: Path, tmp_path: Path) -> None:
    path = tmp_path / "gone.parquet"
    path.write_bytes((folder / "0.parquet").read_bytes())
    table = open_table(path)
    path.unlink()
    with pytest.raises(SourceError, match=r"gone\.parquet"):
        table.fetch([0], np.arange(0, 40_000, 3_000), CancelToken())


def test_values_that_are_not_as_the_first_ones_were(tmp_path: Path) -> None:
    """A number that no double has is met far behind: what the column becomes is known when all of it was read."""
    rows = [{"boards": number} for number in range(40_000)]
    parquet.write_table(pa.Table.from_pylist(rows), tmp_path / "a.parquet", row_group_size=2_000)
    parquet.write_table(pa.table({"boards": ["7", "x", None]}), tmp_path / "b.parquet")
    table = open_table(SourceSpec.of(tmp_path / "*.parquet"))
    ids = np.array([*range(0, 40_000, 2_000), 40_001])
    table.fetch([0], ids, CancelToken())
    assert Scatter(table, ids).column(0).texts() == [*map(str, range(0, 40_000, 2_000)), "x"]


def test_windows_beside_each_other_are_read_as_before(table: Table, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(on_demand, "ScatteredRows", None)
    table.fetch([0, 1], np.arange(100, 140), CancelToken())
    assert texts_of(table, [100, 139])[1][:2] == as_texts(139)[:2]
