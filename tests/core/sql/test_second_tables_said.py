"""Second tables in SQL: the statement gives on sqlite3 the rows that the cut leaves."""

from __future__ import annotations

import csv
import random
import sqlite3
from pathlib import Path

import pytest

from yardcut.core.cutlist.file import parse_list
from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken
from yardcut.core.session import Session
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sql.statement import as_statement

CUTS = {
    "brought": "bring name AS called, region from \"mills.csv\" by mill\n  keep region = 'hill' OR n > 40",
    "by another name": "bring name from others by mill = id matched only",
    "every": "bring v from \"more.csv\" by mill, grade every match\n  keep v <> 'x' OR v IS NULL",
    "without": 'bring name from "mills.csv" by mill unmatched only',
    "on a list": 'keep mill IN "asked.txt" AND n NOT IN "numbers.txt"',
    "in a table": 'keep (mill, grade) IN "more.csv" OR mill NOT IN others column id',
    "dropped": 'drop mill IN "more.csv" column mill',
    "of a cut": 'bring whole from cut "totals" by grade\n  make share = n * 1.0 / whole\n  keep share > 0.005',
    "twice": 'bring name from "mills.csv" by mill\n  bring id AS code from others by name = name matched only\n  drop n IN cut "small" column n',
}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("second")
    chance = random.Random(4)
    tables = {
        "packs": [["mill", "grade", "n"]] + [[chance.choice(["a", "b", "c", "z", ""]), chance.choice(["A", "B", ""]), str(n)] for n in range(60)],
        "mills": [["mill", "name", "region"], ["a", "Alder", "hill"], ["b", "Birch", "coast"], ["q", "Quince", "hill"], ["", "None", "hill"]],
        "others": [["id", "name"], ["a", "Alder"], ["c", "Cedar"]],
        "more": [["mill", "grade", "v"], ["a", "A", "x"], ["a", "A", "y"], ["b", "", "z"], ["c", "B", "w"]],
    }  # fmt: skip
    for name, rows in tables.items():
        with open(path / f"{name}.csv", "w", newline="") as file:
            csv.writer(file).writerows(rows)
    (path / "asked.txt").write_text("a\nc\nit's\n")
    (path / "numbers.txt").write_text("3\n4\n59\n")
    return path


@pytest.mark.parametrize("name", CUTS)
def test_the_statement_gives_the_rows_of_the_cut(folder: Path, name: str) -> None:
    text = (
        'yardcut 1\nsource "packs.csv"\nsource "others.csv" AS others\ncut "totals"\n  tally SUM(n) AS whole per grade\n'
        f'cut "small"\n  keep n < 10\ncut "{name}"\n  {CUTS[name]}\n'
    )
    cut_list = parse_list(text)
    session = Session(SourceSpec(cut_list.files, (), folder), cut_list)
    table = session.open()
    cut = cut_list.cuts[-1]
    result = list(session.results(CancelToken(), cut=cut, seed=0))[-1]
    page = result.frame.page(0, result.rows.count, range(len(result.shown)))
    statement = as_statement(session.bound(cut), table, "packs", "sqlite", [each.name for each in cut_list.cuts], 2)
    database = sqlite3.connect(":memory:")
    for file in folder.glob("*.csv"):
        with open(file, newline="") as lines:
            head, *rows = csv.reader(lines)
        types = ["INTEGER" if column == "n" else "TEXT" for column in head]
        database.execute(f"CREATE TABLE {file.stem} ({', '.join(map(' '.join, zip(head, types, strict=True)))})")
        database.executemany(
            f"INSERT INTO {file.stem} VALUES ({', '.join(['?'] * len(head))})",
            [[cell or None for cell in row] for row in rows],
        )
    cells = [[None if cell is None else float(cell) if column.name in ("n", "whole", "share") else cell for cell in found]
             for column, found in zip(result.shown, page.cells, strict=True)]  # fmt: skip
    key = lambda row: [str(cell) for cell in row]  # noqa: E731
    wanted = sorted(
        ([float(cell) if isinstance(cell, int) else cell for cell in row] for row in database.execute(statement)),
        key=key,
    )
    assert sorted(map(list, zip(*cells, strict=True)), key=key) == wanted
    assert wanted


@pytest.mark.parametrize(
    "line",
    ['bring name from "mills.csv" by mill first match', 'keep mill IN "mills.csv" IGNORING CASE',
     'bring name from "mills.csv" by mill, latest mill <= n'],
)  # fmt: skip
def test_what_cannot_be_said_is_said_to_be_so(folder: Path, line: str) -> None:
    cut_list = parse_list(f'yardcut 1\nsource "packs.csv"\ncut "c"\n  {line}\n')
    session = Session(SourceSpec(cut_list.files, (), folder), cut_list)
    table = session.open()
    bound = session.bound(cut_list.cuts[0])
    with pytest.raises(ListError, match="cannot be said in SQL|latest takes|is an integer"):
        wrong = next((each.error for each in bound if each.error is not None), None)
        if wrong is not None:
            raise wrong
        as_statement(bound, table, "packs", "sqlite")
