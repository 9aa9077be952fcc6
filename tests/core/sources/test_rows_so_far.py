"""The rows that were read so far are those a plain reader finds at the head of the file, whatever their columns hold."""

from __future__ import annotations

import csv
import random
import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest

from thoroughness import examples
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import KnownLaterError
from yardcut.core.expressions.frame import source_frame
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.rows_so_far import RowsSoFar
from yardcut.core.table.stored_table import Table
from yardcut.core.table.table_so_far import TableSoFar
from yardcut.core.values.kinds import Kind

BLOCK_BYTES = 600


@pytest.fixture(autouse=True)
def small_blocks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", BLOCK_BYTES)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)


class Watched(RowsSoFar):
    """Asks for the rows after every block."""

    def __init__(self) -> None:
        self.tables: list[TableSoFar] = []
        super().__init__(self.tables.append, 0)

    def is_due(self) -> bool:
        return True


def watched(source: SourceSpec | Path) -> tuple[list[TableSoFar], Table]:
    asked = Watched()
    return asked.tables, open_table(source, so_far=asked)


def cells(table: Table) -> list[tuple[str | None, ...]]:
    frame = source_frame(table)
    places = [place for place, column in enumerate(table.columns) if column.is_loaded]
    return list(zip(*frame.page(0, table.rows, places).cells, strict=True))


def as_read(cell: str, kind: Kind) -> str | None:
    """Return what a plain reader makes of a cell, as the app would show it."""
    if cell.strip() in ("", "NA"):
        return None
    if kind is Kind.NUMBER:
        number = float(cell)
        return str(int(number)) if number.is_integer() else str(number)
    return str(int(cell)) if kind is Kind.INTEGER else cell


COLUMNS = {
    "wood": lambda chance, row: chance.choice(["oak", "ash", "", "yew"]),
    "ticket": lambda chance, row: f"T{row:05}-{chance.randrange(10**6)}",
    "boards": lambda chance, row: str(chance.randrange(10 ** (1 + row // 60 % 6))),
    "moisture": lambda chance, row: "" if chance.random() < 0.1 else f"{chance.randrange(300) / 8}",
    "felled": lambda chance, row: f"20{chance.randrange(10, 40)}-0{chance.randrange(1, 9)}-11",
    "nothing": lambda chance, row: "",
    "late": lambda chance, row: "" if row < 150 else str(chance.randrange(9)),
    "sold": lambda chance, row: chance.choice(["true", "false", ""]),
}


def rows_of(chance: random.Random, names: list[str], count: int) -> Iterator[list[str]]:
    for row in range(count):
        yield [COLUMNS[name](chance, row) for name in names]


@pytest.mark.parametrize("seed", range(examples(90)))
def test_rows_so_far_are_the_first_rows_of_the_file(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    names = chance.sample(list(COLUMNS), chance.randrange(2, len(COLUMNS)))
    path = tmp_path / "yard.csv"
    with open(path, "w", newline="") as file:
        csv.writer(file).writerows([names, *rows_of(chance, names, chance.randrange(250, 700))])
    tables, whole = watched(path)
    with open(path, newline="") as file:
        plain = [row for row in csv.reader(file) if any(map(str.strip, row))][1:]  # docs/language.md: blank rows
    assert len(tables) > 2
    assert [table.rows for table in tables] == sorted({table.rows for table in tables})
    for table in tables:
        assert 0 < table.share_read < 1
        loaded = [place for place, column in enumerate(table.columns) if column.is_loaded]
        assert cells(table) == [
            tuple(as_read(row[place], table.columns[place].kind) for place in loaded) for row in plain[: table.rows]
        ]
        gone = [sum(row[place].strip() in ("", "NA") for row in plain[: table.rows]) for place in loaded]
        assert [table.columns[place].info.missing for place in loaded] == gone
    assert whole.share_read == 1
    assert whole.rows == len(plain)


@pytest.mark.parametrize(
    ("line", "condition"),
    [
        ("keep boards > 60", "CAST(boards AS INTEGER) > 60"),
        ("keep wood IN ('oak', 'yew')", "wood IN ('oak', 'yew')"),
        ("drop moisture IS NULL", "moisture <> ''"),
        ("keep wood = 'ash' OR moisture < 12.5", "wood = 'ash' OR (moisture <> '' AND CAST(moisture AS REAL) < 12.5)"),
        ("keep ticket LIKE 'T000%'", "ticket LIKE 'T000%'"),
    ],
)
def test_counts_so_far_are_those_of_the_same_rows_elsewhere(tmp_path: Path, line: str, condition: str) -> None:
    names = ["wood", "ticket", "boards", "moisture"]
    path = tmp_path / "yard.csv"
    with open(path, "w", newline="") as file:
        csv.writer(file).writerows([names, *rows_of(random.Random(7), names, 600)])
    tables, _ = watched(path)
    base = sqlite3.connect(":memory:")
    base.execute(f"CREATE TABLE yard ({', '.join(names)})")
    with open(path, newline="") as file:
        base.executemany("INSERT INTO yard VALUES (?, ?, ?, ?)", list(csv.reader(file))[1:])
    for table in tables:
        found = list(Executor(LocalRunner(table)).run(Cut(lines=(Line(line),)), CancelToken()))
        (expected,) = base.execute(
            f"SELECT COUNT(*) FROM yard WHERE rowid <= {table.rows} AND ({condition})"
        ).fetchone()
        assert found[-1].rows.count == expected


def test_a_column_that_turns_out_otherwise_has_no_values_till_the_end(tmp_path: Path) -> None:
    path = tmp_path / "yard.csv"
    path.write_text("boards,wood\n" + "".join(f"{row},oak\n" for row in range(2000)) + "".join(
        f"much {row},ash\n" for row in range(100)))  # fmt: skip
    tables, whole = watched(path)
    known, later = tables[0], tables[-1]
    assert known.columns[0].is_loaded
    assert not later.columns[0].is_loaded
    assert [column.is_loaded for column in later.columns] == [False, True]
    page = source_frame(later).page(0, 3, [0, 1])
    assert page.waiting == (0,)
    assert list(page.cells[1]) == ["oak"] * 3
    with pytest.raises(KnownLaterError, match="boards turned out to be of another kind"):
        list(Executor(LocalRunner(later)).run(Cut(lines=(Line("keep boards = 'much 1'"),)), CancelToken()))
    assert whole.columns[0].kind is Kind.TEXT
    assert cells(known) == [(str(row), "oak") for row in range(known.rows)]


def test_a_declared_kind_is_not_shown_as_the_text_it_is_read_as(tmp_path: Path) -> None:
    path = tmp_path / "yard.csv"
    path.write_text("felled,wood\n" + "".join(f"1{row % 9}.03.2031,oak\n" for row in range(400)))
    spec = SourceSpec.of(path).with_line(parse_sub_line("kind felled date 'DD.MM.YYYY'"))
    tables, whole = watched(spec)
    assert {table.columns[0].kind for table in tables} == {Kind.DATE}
    assert not any(table.columns[0].is_loaded for table in tables)
    assert whole.columns[0].kind is Kind.DATE


def test_files_that_lack_a_column_lack_it_while_they_are_read(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("wood,boards\n" + "".join(f"oak,{row}\n" for row in range(300)))
    (tmp_path / "b.csv").write_text("wood,site\n" + "".join(f"ash,S{row}\n" for row in range(300)))
    spec = SourceSpec(("a.csv", "b.csv"), (), tmp_path).with_line(parse_sub_line("file column came_from"))
    tables, whole = watched(spec)
    assert [column.name for column in whole.columns] == ["wood", "boards", "site", "came_from"]
    everything = cells(whole)
    for table in tables:
        assert cells(table) == everything[: table.rows]
    assert any(300 < table.rows < 600 for table in tables)


def test_what_a_table_so_far_holds_outlives_what_comes_after_it(tmp_path: Path) -> None:
    """Codes become texts, integers widen, the folder moves to its place: rows given before stay as they were."""
    path = tmp_path / "yard.csv"
    rows = [[f"w{row if row > 200 else row % 3}", str(10 ** (row // 100))] for row in range(700)]
    with open(path, "w", newline="") as file:
        csv.writer(file).writerows([["wood", "boards"], *rows])
    tables, _ = watched(path)
    for table in tables:
        assert cells(table) == [tuple(row) for row in rows[: table.rows]]
