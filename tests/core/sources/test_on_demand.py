"""Parquet and Arrow files: opened at once, read column by column, the same cells as pyarrow has."""

from __future__ import annotations

import datetime
import functools
import shutil
import time
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from helpers import run_lines
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.expressions.column_ranges import answer_of_range
from yardcut.core.expressions.frame import UNREADABLE, WAITING, Frame, source_frame
from yardcut.core.expressions.testing.comparing_numbers import OPERATORS
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.formats.parquet import ParquetTable
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.own_folders import stores_folder
from yardcut.core.table import unread
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

ROWS = 50_000
START = datetime.datetime(2031, 3, 1)


@functools.cache
def rows_of(first: int, count: int) -> dict[str, list[Any]]:
    numbers = range(first, first + count)
    return {
        "ticket": [None if number % 13 == 5 else f"{number:05d}-31" for number in numbers],
        "boards": [None if number % 7 == 2 else number * 3 for number in numbers],
        "moisture": [None if number % 11 == 1 else number / 4 for number in numbers],
        "at": [START + datetime.timedelta(minutes=number) for number in numbers],
        "reserved": [None if number % 5 == 0 else number % 2 == 0 for number in numbers],
    }


def write(path: Path, first: int = 0, count: int = ROWS, group: int = 6_000, **other: Any) -> Path:
    table = pa.table(rows_of(first, count) | other)
    if path.suffix == ".parquet":
        parquet.write_table(table, path, row_group_size=group)
    else:
        with pa.ipc.new_file(str(path), table.schema) as file:
            file.write_table(table, max_chunksize=group)
    return path


def shown(name: str, value: Any) -> str | None:
    if value is None:
        return None
    if name == "moisture":
        return f"{value:.2f}".rstrip("0").rstrip(".")
    return str(value).lower() if isinstance(value, bool) else str(value)


def loaded(table: Table) -> list[str]:
    return [column.name for column in table.columns if column.is_loaded]


@pytest.mark.parametrize("name", ["t.parquet", "t.arrow"])
def test_a_page_is_read_without_the_columns(tmp_path: Path, name: str) -> None:
    table = open_table(write(tmp_path / name))
    assert table.rows == ROWS
    assert [column.kind for column in table.columns] == [
        Kind.TEXT, Kind.INTEGER, Kind.NUMBER, Kind.TIMESTAMP, Kind.BOOLEAN,
    ]  # fmt: skip
    expected = rows_of(0, ROWS)
    for first in (0, 5_990, 17_999, ROWS - 20):
        page = source_frame(table).page(first, first + 20, range(5))
        for column, cells in zip(table.columns, page.cells, strict=True):
            wanted = [shown(column.name, value) for value in expected[column.name][first : first + 20]]
            assert list(cells) == wanted
    assert loaded(table) == []


@pytest.mark.parametrize("name", ["t.parquet", "t.arrow"])
def test_a_condition_reads_the_columns_it_looks_at_and_no_others(tmp_path: Path, name: str) -> None:
    path = write(tmp_path / name)
    table = open_table(path)
    expected = rows_of(0, ROWS)
    progress = Progress()
    executor = Executor(LocalRunner(table))
    left = list(executor.run(Cut("", (Line("keep boards > 90000 AND reserved"),)), CancelToken(), progress))[-1].rows
    wanted = [
        row for row, (boards, reserved) in enumerate(zip(expected["boards"], expected["reserved"], strict=True))
        if boards is not None and boards > 90_000 and reserved
    ]  # fmt: skip
    assert left.ids(0, left.count).tolist() == wanted
    assert (progress.seen, progress.passed) == (ROWS, len(wanted))
    assert f"true for {len(wanted):,} of {ROWS:,} so far" in progress.sentence()
    assert loaded(table) == []  # what is looked at once is not worth storing
    assert run_lines(table, "keep boards > 90000 AND reserved")[-1].rows.count == len(wanted)
    assert loaded(table) == ["boards", "reserved"]
    again = open_table(path)
    assert loaded(again) == ["boards", "reserved"]  # found in the cache
    assert again.columns[1].slice(0, 50).texts() == [shown("boards", value) for value in expected["boards"][:50]]


@given(st.data())
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_cells_are_the_same_before_and_after_reading(tmp_path: Path, data: st.DataObject) -> None:
    path = tmp_path / "any.parquet"
    if not path.exists():
        write(path)
    table = open_table(path)
    column = table.columns[data.draw(st.integers(0, 4))]
    rows = np.array(data.draw(st.lists(st.integers(6_000, 23_999), max_size=40)), dtype=np.int64)
    before = column.take(rows).texts()
    column.load()
    assert column.is_loaded
    assert column.take(rows).texts() == before
    wanted = rows_of(0, ROWS)[column.name]
    assert before == [shown(column.name, wanted[row]) for row in rows.tolist()]
    for file in table.folder.glob("*"):
        file.unlink()


def test_a_stack_is_lined_up_by_name(tmp_path: Path) -> None:
    first = write(tmp_path / "a.parquet", 0, 7_000)
    second = write(tmp_path / "b.parquet", 7_000, 3_000, colour=["red", None, "blue"] * 1_000)
    spec = SourceSpec.of(first, second).with_line(parse_sub_line("file column from_file"))
    table = open_table(spec)
    names = [column.name for column in table.columns]
    assert names == ["ticket", "boards", "moisture", "at", "reserved", "colour", "from_file"]
    page = source_frame(table).page(6_998, 7_003, range(7))
    assert page.cells[5] == (None, None, "red", None, "blue")
    assert page.cells[6] == ("a.parquet", "a.parquet", "b.parquet", "b.parquet", "b.parquet")
    assert page.cells[1] == tuple(shown("boards", value) for value in rows_of(6_998, 5)["boards"])
    assert run_lines(table, "keep colour = 'blue'")[-1].rows.count == 1_000
    assert run_lines(table, "keep from_file = 'a.parquet' AND boards IS NULL")[-1].rows.count == 1_000
    assert table.info.files[1].differences.alone == ("colour",)


def test_sub_lines_say_names_columns_and_kinds(tmp_path: Path) -> None:
    path = write(tmp_path / "t.parquet", 0, 500, day=["01.02.2031", "31.12.2030", "odd", None, "05.06.2031"] * 100)
    spec = SourceSpec.of(path)
    for line in ("call boards planks", "only planks, day", "kind day date 'DD.MM.YYYY'"):
        spec = spec.with_line(parse_sub_line(line))
    table = open_table(spec)
    assert [(column.name, column.kind) for column in table.columns] == [("planks", Kind.INTEGER), ("day", Kind.DATE)]
    page = source_frame(table).page(0, 5, [0, 1])
    assert page.cells[1] == ("2031-02-01", "2030-12-31", None, None, "2031-06-05")
    assert table.columns[1].info.set_aside == 100
    assert loaded(table) == ["day"]


def test_a_damaged_column_says_so_and_spares_the_others(tmp_path: Path) -> None:
    path = write(tmp_path / "t.parquet", group=ROWS)
    place = parquet.read_metadata(path).row_group(0).column(1).data_page_offset
    content = bytearray(path.read_bytes())
    content[place : place + 400] = bytes(400)
    path.write_bytes(content)
    others = set(stores_folder().glob("building-*"))
    table = open_table(path)
    assert source_frame(table).page(0, 3, [0, 1]).cells == (
        ("00000-31", "00001-31", "00002-31"), (UNREADABLE,) * 3,
    )  # fmt: skip
    with pytest.raises(SourceError, match="not a whole Parquet file"):
        run_lines(table, "keep boards > 5")
    assert run_lines(table, "keep moisture < 1")[-1].rows.count == 3
    with pytest.raises(SourceError, match="not a whole Parquet file"):
        table.load([1], CancelToken())
    assert set(stores_folder().glob("building-*")) <= others


def test_a_file_that_changed_is_no_mixture(tmp_path: Path) -> None:
    path = write(tmp_path / "t.parquet")
    table = open_table(path)
    write(path, 5, ROWS)
    with pytest.raises(SourceError):
        run_lines(table, "keep boards > 5")
    assert loaded(table) == []
    path.unlink()
    with pytest.raises(SourceError):
        run_lines(table, "keep moisture > 5")
    assert set(source_frame(table).page(30_000, 30_002, range(5)).cells) == {(UNREADABLE,) * 2}


def test_reading_a_column_can_be_stopped(tmp_path: Path) -> None:
    table, others = open_table(write(tmp_path / "t.parquet")), set(stores_folder().glob("building-*"))
    token = CancelToken()
    token.cancel()
    with pytest.raises(StoppedError):
        table.load([0], token)
    assert loaded(table) == []
    assert set(stores_folder().glob("building-*")) <= others


def test_nested_columns_are_opened_and_names_may_hold_points(tmp_path: Path) -> None:
    table = pa.table({"a.b": [1, 2, 3], "a": [{"b": "x", "c": {"d": 1.5}}, None, {"b": None, "c": {"d": 2.5}}]})
    parquet.write_table(table, tmp_path / "n.parquet")
    opened = open_table(tmp_path / "n.parquet")
    names = [column.name for column in opened.columns]
    assert names == ["a.b", "a.b_2", "a.c.d"]
    cells = source_frame(opened).page(0, 3, range(3)).cells
    assert cells == (("1", "2", "3"), ("x", None, None), ("1.5", None, "2.5"))
    opened.load(range(3), CancelToken())
    assert source_frame(opened).page(0, 3, range(3)).cells == cells


@pytest.mark.parametrize(
    ("unit", "moment"), [("s", "2031-03-01 14:30:00"), ("ms", "2031-03-01 14:30:00.250"), ("ns", "1969-12-31 23:59:59")]
)
def test_instants_of_any_unit(tmp_path: Path, unit: str, moment: str) -> None:
    at = datetime.datetime.fromisoformat(moment)
    table = pa.table({"at": pa.array([at, None], pa.timestamp(unit)), "day": pa.array([at.date(), None], pa.date64())})
    parquet.write_table(table, tmp_path / "i.parquet", version="2.6")
    opened = open_table(tmp_path / "i.parquet")
    found = [column.slice(0, 2).texts() for column in opened.columns]
    assert [texts[1] for texts in found] == [None, None]
    assert datetime.datetime.fromisoformat(str(found[0][0])) == at
    assert found[1][0] == str(at.date())


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(4))
def test_any_damage_is_met_with_a_sentence(tmp_path: Path, seed: int) -> None:
    random = np.random.default_rng(seed)
    good = write(tmp_path / ("g.parquet" if seed % 2 else "g.arrow"), 0, 400, group=100, tags=[["a", "b"], None] * 200)
    whole = good.read_bytes()
    said = 0
    for number in range(40):
        content = bytearray(whole)
        for place in random.integers(0, len(whole), int(random.choice([1, 3, 20]))).tolist():
            content[place] = int(random.integers(0, 256))
        path = tmp_path / f"{number}{good.suffix}"
        path.write_bytes(content if number % 8 else content[: int(random.integers(0, len(whole)))])
        try:
            table = open_table(path)
            source_frame(table).page(0, 20, range(len(table.columns)))
            table.load(range(len(table.columns)), CancelToken())
        except SourceError as error:
            said += 1
            assert path.name in str(error)
    assert said


def test_a_page_of_rows_far_apart_waits_for_its_columns(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(unread, "_QUICK_ROWS", 1_000)
    table = open_table(write(tmp_path / "t.parquet"))
    rows = run_lines(table, "keep boards > 0", "draw every 5000")[-1].rows
    page = Frame(table, rows, source_frame(table).columns).page(0, 20, [0, 1, 2])
    assert len(page.row_ids) > 8
    assert page.waiting == (0, 1, 2)
    assert page.cells[0] == (WAITING,) * len(page.row_ids)
    table.load(page.waiting, CancelToken())
    page = Frame(table, rows, source_frame(table).columns).page(0, 20, [0, 1, 2])
    assert page.waiting == ()
    assert list(page.cells[0]) == [shown("ticket", rows_of(0, ROWS)["ticket"][row]) for row in page.row_ids]


@pytest.mark.long
def test_one_row_of_a_very_wide_file_is_there_at_once(tmp_path: Path) -> None:
    columns = {f"c{place}": [place, None, place + 1] if place % 2 else ["a", "b", None] for place in range(1_500)}
    parquet.write_table(pa.table(columns), tmp_path / "wide.parquet")
    table = open_table(tmp_path / "wide.parquet")
    started = time.process_time()
    page = source_frame(table).page(2, 3, range(1_500))
    assert time.process_time() - started < 10  # column by column it takes half a minute
    assert [cells[0] for cells in page.cells] == [str(place + 1) if place % 2 else None for place in range(1_500)]
    assert not loaded(table)


def test_a_file_without_rows_keeps_the_kinds_it_says(tmp_path: Path) -> None:
    parquet.write_table(
        pa.table({"n": pa.array([], pa.int64()), "t": pa.array([], pa.string())}), tmp_path / "e.parquet"
    )
    table = open_table(tmp_path / "e.parquet")
    table.load(range(2), CancelToken())
    assert [(column.kind, column.info.kind) for column in table.columns] == [(Kind.INTEGER,) * 2, (Kind.TEXT,) * 2]
    assert run_lines(table, "keep n > 5", "order n DESC")[-1].rows.count == 0


def test_a_file_without_a_wanted_column_is_not_looked_at(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    first = write(tmp_path / "a.parquet", 0, 7_000)
    second = write(tmp_path / "b.parquet", 7_000, 3_000, colour=["red"] * 3_000)
    spec = SourceSpec.of(first, second).with_line(parse_sub_line("file column from_file"))
    table = open_table(spec)
    looked: list[str] = []
    batches = ParquetTable._batches
    monkeypatch.setattr(
        ParquetTable, "_batches", lambda file, roots: looked.append(f"{file.label} {roots}") or batches(file, roots)
    )
    names = [column.name for column in table.columns]
    table.load([names.index("colour")], CancelToken())
    assert looked == ["b.parquet ['colour']"]
    table.load([names.index("from_file")], CancelToken())
    assert looked == ["b.parquet ['colour']"]
    assert table.columns[names.index("colour")].info.missing == 7_000
    assert table.columns[names.index("from_file")].slice(6_999, 7_001).texts() == ["a.parquet", "b.parquet"]


DIRECT = [
    "boards > 90000", "boards BETWEEN 600 AND 30000", "boards IN (3, 21, 149997)", "boards IS NULL", "NOT boards < 20000",
    "ticket = '00417-31'", "ticket LIKE '0001%'", "moisture * 2 > 100 AND reserved", "reserved OR moisture IS NULL",
    "day >= '2031-06-01' AND day < '2031-07-01'", "day = '1999-01-01'", "whole <> 7", "whole = 7", "whole < 70000",
    "species = 'oak'", "species IN ('ash', 'elm') AND whole % 2 = 0", "at > TIMESTAMP '2031-03-20 00:00:00'",
    "CASE WHEN whole > 100 THEN species ELSE ticket END = 'oak'", "ANY OF (boards, whole) > 120000", "SOURCE_ROW > 100",
]  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("name", ["d.parquet", "d.arrow"])
def test_a_first_answer_from_the_file_is_that_of_the_stored_columns(tmp_path: Path, name: str) -> None:
    more = {
        "day": [datetime.date(2031, 1, 1) + datetime.timedelta(days=row // 200) for row in range(ROWS)],
        "whole": [7] * 12_000 + list(range(ROWS - 12_000)),
        "species": [["oak", "ash", None, "elm"][row % 4] for row in range(ROWS)],
    }
    path = write(tmp_path / name, group=6_001, **more)
    stored = open_table(Path(shutil.copy(path, tmp_path / f"stored-{name}")))
    stored.load(range(len(stored.columns)), CancelToken())
    for condition in DIRECT:
        for verb in ("keep", "drop"):
            first = open_table(path)
            found = run_lines(first, f"{verb} {condition}", parts=3)[-1]
            truth = run_lines(stored, f"{verb} {condition}", parts=3)[-1]
            assert not loaded(first), condition
            assert found.rows.count == truth.rows.count, condition
            assert found.unknown_taken == truth.unknown_taken, condition
            assert (found.rows.member_bits() == truth.rows.member_bits()).all(), condition


def test_groups_that_cannot_matter_are_not_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = write(tmp_path / "s.parquet", whole=list(range(ROWS)))
    read: list[int] = []
    plain = ParquetTable._group

    def counted(self: ParquetTable, group: int, roots: list[str]) -> Any:
        read.append(group)
        return plain(self, group, roots)

    monkeypatch.setattr(ParquetTable, "_group", counted)
    assert run_lines(open_table(path), "keep whole BETWEEN 12500 AND 12600")[-1].rows.count == 101
    assert read == [2]
    read.clear()
    assert run_lines(open_table(path), "keep whole >= 0")[-1].rows.count == ROWS
    assert run_lines(open_table(path), "keep whole > 99999999 OR whole = -1")[-1].rows.count == 0
    assert read == []


@given(
    low=st.integers(-5, 5), size=st.integers(0, 5), value=st.integers(-8, 12),
    operator=st.sampled_from(["=", "<>", "<", "<=", ">", ">="]), negated=st.booleans(),
)  # fmt: skip
def test_what_a_range_says_is_true_of_all_its_values(
    low: int, size: int, value: int, operator: str, negated: bool
) -> None:
    test = b.Compare(operator, b.ColumnValue(0, Kind.INTEGER), b.Constant(Kind.INTEGER, value))
    answer = answer_of_range(b.Piece(test, negated), {0: (low, low + size)})
    each = {OPERATORS[operator](item, value) is not negated for item in range(low, low + size + 1)}
    assert answer is None or each == {answer}
    if low in (value, low + size) or len(each) == 2:
        assert answer is None or len(each) == 1


def test_a_file_replaced_or_damaged_under_a_first_answer_ends_in_a_sentence(tmp_path: Path) -> None:
    path = write(tmp_path / "r.parquet")
    table = open_table(path)
    write(path, first=7)
    with pytest.raises(SourceError):
        run_lines(table, "keep boards > 3")


@pytest.mark.parametrize(
    "line", ["keep n < 20", "keep n >= 20", "drop n < 20", "keep n >= 48", "keep n < 0", "keep n >= 0"]
)
def test_groups_that_their_statistics_settle_at_either_end(tmp_path: Path, line: str) -> None:
    path = tmp_path / "t.parquet"
    parquet.write_table(pa.table({"n": list(range(64)), "x": ["a"] * 64}), path, row_group_size=16)
    (result,) = run_lines(open_table(SourceSpec((str(path),))), line)
    bound = int(line.split()[-1])
    wanted = [n for n in range(64) if (n < bound) is ((line.split()[2] == "<") is line.startswith("keep"))]
    assert result.rows.ids(0, 64).tolist() == wanted
