"""Parquet, Arrow, JSON, workbooks and databases, against other writers of them."""

from __future__ import annotations

import datetime
import decimal
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import openpyxl
import pyarrow as pa
import pytest
from pyarrow import feather, parquet

from yardcut.core.errors import SourceError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

TYPED = pa.table(
    {
        "whole": pa.array([1, None, -3], pa.int16()),
        "real": pa.array([1.5, float("nan"), None], pa.float32()),
        "money": pa.array([decimal.Decimal("1.25"), None, decimal.Decimal("-2.50")], pa.decimal128(9, 2)),
        "flag": pa.array([True, None, False]),
        "word": pa.array(["a", None, "é\n"]).dictionary_encode(),
        "day": pa.array([datetime.date(2031, 1, 2), None, datetime.date(1969, 12, 31)]),
        "at": pa.array([datetime.datetime(2031, 1, 2, 3, 4, 5), None, None], pa.timestamp("ms")),
        "size": pa.array([{"length": 1, "width": {"mm": 2}}, None, {"length": 3, "width": {"mm": 4}}]),
        "list": pa.array([[1, 2], None, []], pa.list_(pa.int64())),
    }
)
EXPECTED = {
    "whole": ["1", None, "-3"], "real": ["1.5", None, None], "money": ["1.25", None, "-2.5"],
    "flag": ["true", None, "false"], "word": ["a", None, "é\n"], "day": ["2031-01-02", None, "1969-12-31"],
    "at": ["2031-01-02 03:04:05", None, None], "size.length": ["1", None, "3"], "size.width.mm": ["2", None, "4"],
    "list": ["[1, 2]", None, "[]"],
}  # fmt: skip


def opened(path: Path, *lines: str) -> Table:
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, lines))))


def cells(table: Table) -> dict[str, list[str | None]]:
    return {column.name: column.slice(0, table.rows).texts() for column in table.columns}


def test_parquet_with_every_kind_of_column(tmp_path: Path) -> None:
    parquet.write_table(TYPED, tmp_path / "t.parquet", row_group_size=2)
    table = opened(tmp_path / "t.parquet")
    assert cells(table) == EXPECTED
    assert [column.kind.value for column in table.columns][:4] == ["integer", "number", "number", "boolean"]
    assert list(cells(opened(tmp_path / "t.parquet", "only word, money"))) == ["money", "word"]


def test_arrow_files_are_read_alike(tmp_path: Path) -> None:
    feather.write_feather(TYPED, str(tmp_path / "t.feather"), compression="lz4")
    assert cells(opened(tmp_path / "t.feather")) == EXPECTED
    with pa.ipc.new_file(str(tmp_path / "t.arrow"), TYPED.schema) as file:
        file.write_table(TYPED, max_chunksize=1)
    assert cells(opened(tmp_path / "t.arrow")) == EXPECTED


@pytest.mark.parametrize("name", ["t.parquet", "t.feather"])
def test_damaged_files_say_so(tmp_path: Path, name: str) -> None:
    if name.endswith("parquet"):
        parquet.write_table(TYPED, tmp_path / name)
    else:
        feather.write_feather(TYPED, str(tmp_path / name), compression="uncompressed")
    whole = (tmp_path / name).read_bytes()
    (tmp_path / name).write_bytes(whole[: len(whole) // 2])
    with pytest.raises(SourceError, match="is not a whole"):
        opened(tmp_path / name)


RECORDS = [
    {"ticket": "00001-31", "boards": 12, "size": {"mm": 27, "note": None}, "tags": ["a", 1]},
    {"ticket": "00002-31", "boards": None, "late": 1.5, "dry": True},
    {"ticket": "é", "boards": 9223372036854775807, "size": {}},
]
FLAT = {
    "ticket": ["00001-31", "00002-31", "é"], "boards": ["12", None, "9223372036854775807"],
    "size.mm": ["27", None, None], "size.note": [None, None, None], "tags": ['["a", 1]', None, None],
    "late": [None, "1.5", None], "dry": [None, "true", None], "size": [None, None, "{}"],
}  # fmt: skip


@pytest.mark.parametrize("array", [False, True])
def test_json_records(tmp_path: Path, array: bool) -> None:
    text = json.dumps(RECORDS, indent=1) if array else "\n".join(map(json.dumps, RECORDS)) + "\n\n"
    (tmp_path / "r.json").write_text(text)
    table = opened(tmp_path / "r.json")
    assert cells(table) == FLAT
    assert table.columns[1].kind.value == "integer"


@pytest.mark.long
def test_a_large_array_is_read_piece_by_piece(tmp_path: Path) -> None:
    many = [{"n": number, "text": "x" * 100} for number in range(30_000)]
    (tmp_path / "many.json").write_text(json.dumps(many))
    table = opened(tmp_path / "many.json")
    assert cells(table)["n"] == [str(number) for number in range(30_000)]


def test_json_lines_that_are_none_are_dropped_with_their_place(tmp_path: Path) -> None:
    (tmp_path / "bad.jsonl").write_text('{"a": 1}\n{"a": 2\n[3]\n{"a": 4}\n')
    table = opened(tmp_path / "bad.jsonl")
    assert cells(table) == {"a": ["1", "4"]}
    assert table.info.dropped() == 2
    (tmp_path / "broken.json").write_text('[{"a": 1},\n {"a": 2')
    with pytest.raises(SourceError, match="line 2: the array breaks off"):
        opened(tmp_path / "broken.json")


@pytest.fixture
def workbook(tmp_path: Path) -> Path:
    book = openpyxl.Workbook()
    first = book.active
    first.title = "packs"
    first.append(["Harrowmere yard"])
    first.append([])
    for row in (["ticket", "boards", "felled", "dry"], ["00001-31", 12, datetime.date(2031, 1, 2), True], [None] * 4,
                ["00002-31", 1.5, datetime.date(2031, 1, 3), False]):  # fmt: skip
        first.append(row)
    second = book.create_sheet("more")
    second.append(["ticket", "boards"])
    second.append(["00003-31", 7])
    book.save(tmp_path / "yard.xlsx")
    return tmp_path / "yard.xlsx"


def test_worksheets_cells_and_stacks_of_them(workbook: Path) -> None:
    table = opened(workbook)
    assert cells(table) == {
        "ticket": ["00001-31", "00002-31"], "boards": ["12", "1.5"], "felled": ["2031-01-02", "2031-01-03"],
        "dry": ["true", "false"],
    }  # fmt: skip
    assert table.info.files[0].form["worksheets"] == ["packs", "more"]
    assert cells(opened(workbook, "table 'more'")) == {"ticket": ["00003-31"], "boards": ["7"]}
    both = opened(workbook, "table 'packs', 'more'", "file column sheet", "only ticket, boards")
    assert cells(both)["ticket"] == ["00001-31", "00002-31", "00003-31"]
    assert cells(both)["sheet"] == ["yard.xlsx / packs", "yard.xlsx / packs", "yard.xlsx / more"]
    assert cells(opened(workbook, "cells 'A3:B4'")) == {"ticket": ["00001-31"], "boards": ["12"]}
    assert cells(opened(workbook, "cells 'A3'")) == {
        "ticket": ["00001-31"], "boards": ["12"], "felled": ["2031-01-02"], "dry": ["true"]
    }  # fmt: skip
    with pytest.raises(SourceError, match='it has "packs", "more"'):
        opened(workbook, "table 'none'")


def test_a_zip_that_is_no_workbook_says_so(tmp_path: Path) -> None:
    (tmp_path / "x.xlsx").write_bytes(b"PK\x03\x04" + b"nothing" * 20)
    with pytest.raises(SourceError, match="is no workbook that can be read"):
        opened(tmp_path / "x.xlsx")


@pytest.fixture
def database(tmp_path: Path) -> Path:
    with closing(sqlite3.connect(tmp_path / "yard.db")) as connection, connection as file:
        file.execute("CREATE TABLE packs (ticket TEXT, boards INTEGER, price REAL)")
        file.executemany("INSERT INTO packs VALUES (?, ?, ?)", [("00001-31", 12, 1.5), (None, None, None)])
        file.execute('CREATE TABLE "the mills" (id TEXT)')
        file.execute("INSERT INTO \"the mills\" VALUES ('M01')")
    return tmp_path / "yard.db"


def test_tables_and_queries_of_a_database(database: Path) -> None:
    with pytest.raises(SourceError, match=r"'packs' \(3 columns, 2 rows\), 'the mills' \(1 column, 1 row\)"):
        opened(database)
    assert cells(opened(database, "table 'packs'")) == {
        "ticket": ["00001-31", None], "boards": ["12", None], "price": ["1.5", None]
    }  # fmt: skip
    assert cells(opened(database, "query 'select count(*) AS n from packs'")) == {"n": ["2"]}
    assert len(opened(database, "all tables").columns) == 4
    before = database.read_bytes()
    with pytest.raises(SourceError, match="is only ever read"):
        opened(database, "query 'delete from packs'")
    assert database.read_bytes() == before
    with pytest.raises(SourceError, match="it has 'packs', 'the mills'"):
        opened(database, "table 'none'")


DATA = Path(__file__).parents[2] / "data"


def test_an_old_workbook_is_read() -> None:
    assert cells(opened(DATA / "packs.xls")) == {
        "ticket": ["00001-31", "00002-31", "00003-31"],
        "boards": ["12", None, "7.5"],
    }


def test_a_workbook_with_a_password_says_so() -> None:
    with pytest.raises(SourceError, match="is locked with a password; save a copy without one"):
        opened(DATA / "locked.xlsx")


def test_an_old_workbook_that_breaks_off_says_so(tmp_path: Path) -> None:
    (tmp_path / "cut.xls").write_bytes((DATA / "packs.xls").read_bytes()[:2000])
    with pytest.raises(SourceError, match="is no workbook that can be read"):
        opened(tmp_path / "cut.xls")
