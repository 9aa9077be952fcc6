"""Every format a slice is written in, read back by somebody else's reader and compared cell by cell."""

from __future__ import annotations

import contextlib
import csv
import datetime
import io
import json
import math
import re
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pyarrow as pa
import pytest
from pyarrow import parquet

from helpers import WriteTable, run_lines
from yardcut.core.errors import TargetError
from yardcut.core.expressions import frame as frames
from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.formats import FORMATS, format_by_ending
from yardcut.core.outgoing import Outgoing
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.writers.formats import arrow as arrow_file
from yardcut.core.writers.formats import parquet as parquet_file
from yardcut.core.writers.formats import workbook
from yardcut.core.writers.plans import plan_of
from yardcut.core.writers.saving_slices import save_slice

HOSTILE = [
    "oak",
    "",
    "=1+1",
    'a,b\t"c"',
    "line\nbreak",
    "\x1b[31m",
    "_x0041_",
    "漢字 😀",
    "'; DROP TABLE slice",
    "  padded ",
    "[bold]",
]
HEADER = ["text", "count", "share", "felled", "seen", "at", "when", "sold"]
ROWS: list[list[Any]] = [
    [
        text, (-1) ** place * 10**place * 7, place / 3 if place != 4 else 1e300,
        f"20{10 + place}-02-{place + 1:02}", f"2031-03-01 10:0{place % 10}:00", f"0{place % 10}:30:00",
        f"2031-03-01T10:00:0{place % 10}Z", ["true", "false"][place % 2],
    ]
    for place, text in enumerate(HOSTILE)
]  # fmt: skip
ROWS.append([""] * len(HEADER))

WRITTEN = [name for name, form in FORMATS.items() if form.write]


def frame_of(table_of: WriteTable) -> Frame:
    return run_lines(table_of(HEADER, ROWS), "make long = count * 1000")[-1].frame


def truth(frame: Frame) -> list[dict[str, str | None]]:
    """The cells as texts, as the grid has them."""
    page = frame.page(0, frame.rows.count, range(len(frame.columns)))
    names = [column.name for column in frame.columns]
    return [dict(zip(names, cells, strict=True)) for cells in zip(*page.cells, strict=True)]


def from_delimited(path: Path, delimiter: str) -> list[dict[str, Any]]:
    return list(csv.DictReader(io.StringIO(path.read_bytes().decode(), newline=""), delimiter=delimiter))


def from_json(text: str) -> list[dict[str, Any]]:
    return [json.loads(line) for line in text.splitlines()] if not text.startswith("[") else json.loads(text)


def from_database(path: Path) -> list[dict[str, Any]]:
    with contextlib.closing(sqlite3.connect(path)) as database:
        cursor = database.execute("SELECT * FROM slice")
        return [dict(zip([each[0] for each in cursor.description], row, strict=True)) for row in cursor]


def from_workbook(path: Path) -> list[dict[str, Any]]:
    sheet = openpyxl.load_workbook(io.BytesIO(path.read_bytes())).active
    assert sheet is not None
    header, *rows = [[cell.value for cell in row] for row in sheet.iter_rows()]
    assert all(cell.data_type != "f" for row in sheet.iter_rows() for cell in row)
    undo: Callable[[Any], Any] = lambda value: (  # noqa: E731
        re.sub("_x([0-9A-F]{4})_", lambda match: chr(int(match[1], 16)), value) if isinstance(value, str) else value
    )
    return [dict(zip(header, map(undo, row), strict=True)) for row in rows]


READERS: dict[str, Callable[[Path], list[dict[str, Any]]]] = {
    "csv": lambda path: from_delimited(path, ","),
    "tsv": lambda path: from_delimited(path, "\t"),
    "parquet": lambda path: parquet.read_table(path).to_pylist(),
    "arrow": lambda path: pa.ipc.open_file(path.read_bytes()).read_all().to_pylist(),
    "jsonl": lambda path: from_json(path.read_text(encoding="utf-8")),
    "json": lambda path: from_json(path.read_text(encoding="utf-8")),
    "xlsx": from_workbook,
    "sqlite": from_database,
}


def same(name: str, shown: str | None, read: Any, digits: float) -> bool:
    """Tell whether what a reader gives is the cell that the grid shows."""
    if shown is None:
        return read is None or read == ""
    if name in ("count", "long"):
        return int(read) == int(shown)
    if name == "share":
        return math.isclose(float(read), float(shown), rel_tol=digits)
    if name == "sold":
        return str(read).lower() in ({"true", "1"} if shown.lower() == "true" else {"false", "0"})
    if isinstance(read, datetime.datetime):
        if name == "felled":  # worksheets have no days without a time
            return read.strftime("%Y-%m-%d") == shown
        return read.strftime("%Y-%m-%d %H:%M:%S") == shown.split("+")[0]
    return str(read) == shown


@pytest.mark.parametrize("cells", [1 << 20, 25])
@pytest.mark.parametrize("form", WRITTEN)
def test_every_cell_comes_back(
    table_of: WriteTable, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, form: str, cells: int
) -> None:
    """Also where a block holds two rows, as it does of very wide tables."""
    monkeypatch.setattr(frames, "_BLOCK_CELLS", cells)
    monkeypatch.setattr(parquet_file, "_ROW_GROUP_CELLS", cells)
    monkeypatch.setattr(arrow_file, "_BATCH_CELLS", cells)
    frame = frame_of(table_of)
    path = tmp_path / f"slice{FORMATS[form].endings[0]}"
    written = save_slice(frame, Outgoing(path), plan_of(path, form), token=CancelToken(), progress=Progress())
    assert written.rows == len(ROWS)
    read, expected = READERS[form](path), truth(frame)
    if form == "xlsx":
        read += [dict.fromkeys(read[0])] * (len(expected) - len(read))  # that reader gives no rows without a value
    assert len(read) == len(expected)
    for row, wanted in zip(read, expected, strict=True):
        assert list(row) == list(wanted)
        for name, shown in wanted.items():
            # the library that writes workbooks writes 16 digits
            assert same(name, shown, row[name], 1e-15 if form == "xlsx" else 0), (name, shown, row[name])


@pytest.mark.parametrize(("columns", "rows"), [(0, 1 << 16), (14, 1 << 16), (5000, 209), (1 << 21, 1)])
def test_blocks_of_very_wide_tables_have_few_rows(columns: int, rows: int) -> None:
    assert rows_at_once(columns) == rows


@pytest.mark.parametrize("form", WRITTEN)
def test_a_slice_without_rows(table_of: WriteTable, tmp_path: Path, form: str) -> None:
    frame = run_lines(table_of(HEADER, ROWS), "draw first 0")[-1].frame
    path = tmp_path / "empty"
    written = save_slice(frame, Outgoing(path), plan_of(path, form), token=CancelToken(), progress=Progress())
    assert written.rows == 0
    assert READERS[form](path) == []


def test_endings_name_formats() -> None:
    assert format_by_ending(".ndjson") == FORMATS["jsonl"]
    assert all(format_by_ending(ending) == form for form in FORMATS.values() for ending in form.endings)


def save(frame: Frame, path: Path, form: str) -> None:
    save_slice(frame, Outgoing(path), plan_of(path, form), token=CancelToken(), progress=Progress())


def test_what_a_format_cannot_hold_is_said_and_nothing_is_left(
    table_of: WriteTable, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = tmp_path / "out"
    folder.mkdir()
    twins = run_lines(table_of(["a", "A"], [[1, 2]], "twins.csv"), "draw first 1")[-1].frame
    with pytest.raises(TargetError, match="cannot tell the columns"):
        save(twins, folder / "a.db", "sqlite")
    long = run_lines(table_of(["a", "b"], [["x" * 40_000, 1]], "long.csv"), "draw first 1")[-1].frame
    with pytest.raises(TargetError, match="holds 32,767 characters"):
        save(long, folder / "a.xlsx", "xlsx")
    monkeypatch.setattr(workbook, "MOST_ROWS", 12)
    with pytest.raises(TargetError, match="holds 12 rows"):
        save(frame_of(table_of), folder / "b.xlsx", "xlsx")
    assert list(folder.iterdir()) == []


def test_infinite_numbers_long_integers_and_old_days_are_texts_where_they_are_none(
    table_of: WriteTable, tmp_path: Path
) -> None:
    table = table_of(["n", "x", "day"], [[2**60, "1e300", "1899-01-02"], [7, "2", "1900-03-01"]])
    frame = run_lines(table, "make big = x * 1e300")[-1].frame
    save(frame, tmp_path / "a.jsonl", "jsonl")
    save(frame, tmp_path / "a.xlsx", "xlsx")
    first, second = from_json((tmp_path / "a.jsonl").read_text())
    assert (first["n"], second["n"], first["day"]) == (2**60, 7, "1899-01-02")
    assert first["big"] is None or isinstance(first["big"], str)
    rows = from_workbook(tmp_path / "a.xlsx")
    assert (rows[0]["n"], rows[0]["day"]) == (str(2**60), "1899-01-02")
    assert rows[1]["day"] == datetime.datetime(1900, 3, 1)
