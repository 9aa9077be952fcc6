"""Hints about values: those that must appear, and those that must not."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa
import pytest
from pyarrow import parquet as pq

from helpers import WriteTable, run_lines
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing import pieces
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table

ROWS = [
    *[["oak", "A", "10", 5]] * 6, *[["Oak", "B", "9", 7]] * 2, ["oak ", "A", "11", None], *[["larch", "B", "2", 9]] * 4,
    ["ash", None, "3", 2],
]  # fmt: skip


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["species", "grade", "slot", "knots"], [[*row[:2], f"0{row[2]}", row[3]] for row in ROWS])


def hints(table: Table, *lines: str) -> list[Hint]:
    executor = Executor(LocalRunner(table))
    results = list(executor.run(Cut("", tuple(map(Line, lines)))))
    return [hint for hint in line_hints(results[-1], executor, CancelToken()) if not hint.is_note]


def test_a_list_of_values_says_the_rows_of_each(table: Table) -> None:
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line("keep species IN ('oak', 'larch', 'elm')"),))))[-1]
    notes = [hint.says for hint in line_hints(result, executor, CancelToken()) if hint.is_note]
    assert notes == ["species: oak 6 · larch 4 · elm 0"]


@pytest.mark.parametrize(
    ("line", "says", "mend", "leaves"),
    [
        ("keep species = 'LARCH'", "'larch' stands in 4", "keep species = 'larch'", 4),
        ("keep species = 'lerch'", "'larch' stands in 4", "keep species = 'larch'", 4),
        ("drop species = 'ASH'", "'ash' stands in 1", "drop species = 'ash'", 13),
        ("keep species = 'oak'", "'oak' 6; also 'Oak' 2, 'oak ' 1", "keep species = 'oak' IGNORING CASE", 9),
        ("keep species IN ('larch', 'ASH')", "'ash' stands in 1", "keep species IN ('larch', 'ash')", 5),
        ("keep species = 'grade'", "without quotes grade is the column of that name", "keep species = grade", 0),
        ("keep species = 'juniper'", "no row that reaches the line has 'juniper' in species", "", 0),
        ("keep species = 'oak' IGNORING CASE", "IGNORING CASE also takes 'oak ' 1", "", 0),
        ("keep slot < '09'", "slot is a text, and texts compare letter by letter", "keep CAST(slot AS number) < 9", 0),
        ("keep grade = 'A' AND knots < 50", "knots < 50 is true of", "", 0),
        ("keep grade = 'A' OR knots > 50", "knots > 50 is true of no row", "", 0),
        (
            "keep grade = 'A' OR grade = 'B' AND knots > 5", "AND binds more tightly than OR",
            "keep grade = 'A' OR (grade = 'B' AND knots > 5)", 13,
        ),
        ("keep NOT grade = 'A'", "a missing value is not unlike anything", "keep grade IS NULL OR NOT grade = 'A'", 7),
    ],
)  # fmt: skip
def test_hints_that_must_appear(table: Table, line: str, says: str, mend: str, leaves: int) -> None:
    if "knots < 50" in line:  # true of every row only where all have a value
        found = hints(table, "keep knots IS NOT NULL", line)
    else:
        found = hints(table, line)
    hint = next(each for each in found if says in each.says)
    assert hint.mend == mend
    if leaves:
        assert run_lines(table, mend)[0].rows.count == leaves


@pytest.mark.parametrize(
    "line",
    [
        "keep species = 'larch'",
        "keep species IN ('larch', 'ash')",
        "keep species = 'ash' IGNORING CASE",
        "keep grade = 'A' AND knots > 5",
        "keep (grade = 'A' AND knots > 5) OR grade = 'B'",
        "keep knots > 50",
        "keep slot >= '0x'",
        "keep grade IS NULL",
        "drop NOT grade = 'A'",
        "order species",
    ],
)
def test_hints_that_must_not(table: Table, line: str) -> None:
    assert hints(table, line) == []


def test_of_a_made_column_nothing_is_said_of_what_was_read_as_missing(table: Table) -> None:
    (hint,) = hints(table, "make s = UPPER(species)", "keep s = 'NA'")
    assert hint.says == "no row that reaches the line has 'NA' in s"


@pytest.mark.parametrize(
    ("text", "is_offered"), [("9", True), ("1.5", True), ("-3", True), ("1.2.3", False), ("a", False)]
)
def test_a_number_is_offered_only_where_the_text_is_one(table: Table, text: str, is_offered: bool) -> None:
    assert any("CAST(slot AS number)" in hint.mend for hint in hints(table, f"keep slot < '{text}'")) is is_offered


def test_a_hint_reads_no_column_that_the_answer_was_found_without(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of a large file not all answers are kept; what is gone is not worth reading columns for."""
    monkeypatch.setattr(pieces, "_LEAST_BYTES", 1)
    monkeypatch.setattr(pieces, "_BYTES_A_ROW", 0)
    path = tmp_path / "packs.parquet"
    pq.write_table(pa.table({"species": ["oak", "ash"] * 500, "boards": list(range(1000))}), path)
    table = open_table(path)
    executor = Executor(LocalRunner(table))
    result = list(executor.run(Cut("", (Line("keep species = 'oak' AND boards > 10 AND boards < 5000"),))))[-1]
    assert result.rows.count == 494
    assert line_hints(result, executor, CancelToken()) == ()
    assert not any(column.is_loaded for column in table.columns)
