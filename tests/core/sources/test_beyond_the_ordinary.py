"""Values no calendar, number or text here holds: set aside, counted and listed as they are, or kept as text."""

from __future__ import annotations

import datetime
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyarrow import ipc, parquet

from yardcut.core.errors import SourceError
from yardcut.core.expressions.frame import source_frame
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.form.encodings import check_encoding
from yardcut.core.sources.kinds.far_days import days_and_instants
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

EPOCH = datetime.date(1970, 1, 1).toordinal()
FAR_DAYS = [0, 10_000_000, -10_000_000, None, 18_000, 2_932_896, 2_932_897, -719_162, -719_163]


def cells(table: Table, number: int) -> list[str | None]:
    frame = source_frame(table)
    return list(frame.page(0, table.rows, [number]).cells[0])


@pytest.mark.parametrize("form", ["parquet", "arrow"])
def test_days_beyond_the_calendar_are_set_aside_and_listed(tmp_path: Path, form: str) -> None:
    path = tmp_path / f"far.{form}"
    table = pa.table({"felled_on": pa.array(FAR_DAYS, pa.int32()).cast(pa.date32())})
    if form == "parquet":
        parquet.write_table(table, path)
    else:
        with ipc.new_file(path, table.schema) as file:
            file.write_table(table)
    opened = open_table(path)
    assert cells(opened, 0) == ["1970-01-01", None, None, None, "2019-04-14", "9999-12-31", None, "0001-01-01", None]
    opened.load([0], CancelToken(), Progress())
    info = opened.columns[0].info
    assert (info.kind, info.set_aside) == (Kind.DATE, 4)
    assert [value.text for value in read_set_aside(opened.folder, 0)] == [
        "29349-01-26", "-25410-12-06", "10000-01-01", "0000-12-31",
    ]  # fmt: skip


@given(
    st.lists(st.one_of(st.none(), st.integers(-(2**63), 2**63 - 1)), max_size=12),
    st.sampled_from(["s", "ms", "us", "ns"]), st.booleans(),
)  # fmt: skip
def test_instants_of_any_unit_and_size(numbers: list[int | None], unit: str, with_zone: bool) -> None:
    column = pa.array(numbers, pa.int64()).cast(pa.timestamp(unit, "UTC" if with_zone else None))
    values, valid, unfit = days_and_instants(column)
    per_second = {"s": 1, "ms": 10**3, "us": 10**6, "ns": 10**9}[unit]
    far = {row for row, _ in unfit}
    inside = 1 if with_zone else 0
    for row, number in enumerate(numbers):
        if number is None:
            assert valid is not None
            assert not valid[row]
            continue
        day = number // per_second // 86_400
        fits = 1 + inside <= day + EPOCH <= datetime.date.max.toordinal() - inside
        assert (row in far) is not fits
        assert (valid is None or bool(valid[row])) is fits
        if fits:
            assert int(values[row]) == number * 10**6 // per_second
    assert all(text == str(np.datetime64(numbers[row], unit)).replace("T", " ") for row, text in unfit)


DIGITS = [20, 400, 4_300, 4_301, 6_000, 60_000]


@pytest.mark.parametrize("digits", DIGITS)
def test_a_cell_of_thousands_of_digits(tmp_path: Path, digits: int) -> None:
    long = "9" * digits
    rows = [["1", "x"], [long, "y"], ["3", "z"]]
    (tmp_path / "a.csv").write_text("n,w\n" + "\n".join(map(",".join, rows)), encoding="utf-8")
    (tmp_path / "a.tsv").write_text("n\tw\n" + "\n".join(map("\t".join, rows)), encoding="utf-8")
    (tmp_path / "comma.csv").write_text("n;w\n" + "\n".join(f"{n},5;{w}" for n, w in rows), encoding="utf-8")
    written = ", ".join(f'{{"n": {n}, "w": "{w}"}}' for n, w in rows)
    (tmp_path / "a.json").write_text(f"[{written}]", encoding="utf-8")
    (tmp_path / "a.jsonl").write_text(written.replace("}, {", "}\n{"), encoding="utf-8")
    with closing(sqlite3.connect(tmp_path / "a.sqlite")) as database:
        database.execute("create table packs (n, w)")
        database.executemany("insert into packs values (?, ?)", rows)
        database.commit()
    for path in sorted(tmp_path.iterdir()):
        shown = cells(open_table(path), 0)
        assert len(shown) == 3, path.name
        assert shown[1] in (None, "1e+20") or long in (shown[1] or "").replace(",5", ""), path.name
        assert (shown[0] or "")[:1] == "1", path.name


@pytest.mark.parametrize(
    "name", ["hex", "rot13", "idna", "undefined", "base64", "zip", "bz2", "uu", "quopri", "punycode", "x y", "\0", "unicode_escape"]
)  # fmt: skip
def test_what_is_no_encoding_of_text_is_said(name: str) -> None:
    with pytest.raises(SourceError, match="of text"):
        check_encoding(name)


@pytest.mark.parametrize("name", ["utf-8", "utf-8-sig", "utf-16", "cp1252", "latin-1", "shift_jis", "koi8_r", "UTF8"])
def test_encodings_of_text_are_known(name: str) -> None:
    check_encoding(name)


def test_a_byte_order_mark_is_taken_off_only_where_there_is_one(tmp_path: Path) -> None:
    from yardcut.core.sources.spec import FormLine, SourceSpec

    for content in (b"n,w\n1,x\n", b"\xef\xbb\xbfn,w\n1,x\n"):
        path = tmp_path / "a.csv"
        path.write_bytes(content)
        opened = open_table(SourceSpec.of(path).with_line(FormLine(None, encoding="utf-8-sig")))
        assert ([column.name for column in opened.columns], cells(opened, 1)) == (["n", "w"], ["x"])


def test_json_that_is_nested_without_end_is_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "a.json"
    path.write_text("[" + '{"a": ' * 100_000, encoding="utf-8")
    with pytest.raises(SourceError):
        open_table(path)
    path.write_text(json.dumps([{"a": 1}, {"a": 2}]), encoding="utf-8")
    assert cells(open_table(path), 0) == ["1", "2"]
