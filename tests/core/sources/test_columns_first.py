"""Columns that are read before all others are those of the whole file, counts over them those of the whole table."""

from __future__ import annotations

import csv
import random
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from thoroughness import examples
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.looking.estimated_counts import counts_as_far_as_read
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources import columns_first
from yardcut.core.sources.columns_first import ColumnsFirst, is_worth_reading_first, read_first
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.rows_so_far import RowsSoFar
from yardcut.core.table.stored_table import Table
from yardcut.core.table.table_so_far import TableSoFar

NAMES = ["ticket", "wood", "boards", "moisture", "late"]
LINES = {
    "keep boards > 50": {"boards"},
    "keep wood = 'oak' OR moisture IS NULL": {"wood", "moisture"},
    "drop late = 'x'": {"late"},
    "make b = boards * 2": {"boards"},
    "draw top 20 by boards desc": {"boards"},
    "draw random 30 seed 7": set[str](),
    "draw stratified 40 by wood seed 3": {"wood"},
}


@pytest.fixture(autouse=True)
def small_blocks(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 600)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    monkeypatch.setattr(columns_first, "LARGE_BYTES", 1)


def written(path: Path, seed: int) -> Path:
    """Write a file in which a column turns out to hold texts at its end."""
    chance, count = random.Random(seed), 400
    with open(path, "w", newline="") as file:
        csv.writer(file).writerows(
            [NAMES]
            + [
                [
                    f"T{row:05}", chance.choice(["oak", "ash", "", "yew"]), chance.randrange(100),
                    chance.choice(["", f"{chance.randrange(300) / 8}"]),
                    chance.choice(["x", "y"]) if row > 300 else chance.randrange(9),
                ]
                for row in range(count)
            ]
        )  # fmt: skip
    return path


def counts(table: Table, lines: list[str]) -> list[int]:
    bound = bind_cut(Cut(lines=tuple(map(Line, lines))), table)
    return counts_as_far_as_read(bound, Executor(LocalRunner(table)), CancelToken())


def first(spec: SourceSpec, names: set[str], known: ColumnsFirst | None = None) -> ColumnsFirst:
    return read_first(spec, frozenset(names), known, CancelToken(), Progress())


@pytest.mark.parametrize("seed", range(examples(40)))
def test_counts_over_columns_read_first_are_those_of_the_whole_table(tmp_path: Path, seed: int) -> None:
    spec, chance = SourceSpec.of(written(tmp_path / "yard.csv", seed)), random.Random(seed)
    lines = chance.sample(list(LINES), 3)
    known, needed = None, set[str]()
    for line in lines:  # one column after the other, as somebody writes
        needed |= LINES[line]
        known = first(spec, needed, known)
    assert known is not None
    assert known.names == needed
    whole = open_table(spec)
    assert known.table.rows == whole.rows
    assert counts(known.table, lines) == counts(whole, lines)
    assert [column.name for column in known.table.columns] == [column.name for column in whole.columns]
    for place, column in enumerate(whole.columns):
        if column.name in needed:
            assert known.table.columns[place].info.kind is column.info.kind


def test_lines_are_counted_as_far_as_their_columns_are_read(tmp_path: Path) -> None:
    spec = SourceSpec.of(written(tmp_path / "yard.csv", 1))
    lines = ["keep boards > 50", "keep wood = 'oak'", "keep boards > 70"]
    found = counts(first(spec, {"boards"}).table, lines)
    assert found == counts(open_table(spec), lines)[:1]


def test_a_file_that_changes_between_two_columns_is_told(tmp_path: Path) -> None:
    spec = SourceSpec.of(written(tmp_path / "yard.csv", 1))
    known = first(spec, {"boards"})
    written(tmp_path / "yard.csv", 2)
    with pytest.raises(SourceError, match="changed"):
        first(spec, {"boards", "wood"}, known)


def test_files_go_when_they_are_dropped(tmp_path: Path) -> None:
    spec = SourceSpec.of(written(tmp_path / "yard.csv", 1))
    known = first(spec, {"boards", "wood"}, first(spec, {"boards"}))
    folders = [table.folder for table in known.folders]
    assert len(folders) == 2
    assert all(folder.exists() for folder in folders)
    known.drop()
    assert not any(folder.exists() for folder in folders)


class Held(RowsSoFar):
    """Holds the reading at its first rows, and lets somebody read columns meanwhile."""

    def __init__(self) -> None:
        self.there, self.tables = threading.Event(), list[TableSoFar]()
        super().__init__(self._taken, 0)

    def is_due(self) -> bool:
        return not self.tables

    def _taken(self, table: TableSoFar) -> None:
        self.tables.append(table)
        self._hold = self.held()
        self._hold.__enter__()
        self.there.set()

    def let_go(self) -> None:
        self._hold.__exit__(None, None, None)


def test_a_reading_waits_while_columns_are_read_first_and_goes_on(tmp_path: Path) -> None:
    spec, held, found = SourceSpec.of(written(tmp_path / "yard.csv", 3)), Held(), list[Table]()
    reading = threading.Thread(target=lambda: found.append(open_table(spec, so_far=held)))
    reading.start()
    assert held.there.wait(10)
    names = frozenset({"boards"})
    assert is_worth_reading_first(spec, held.tables[0], names)
    assert not is_worth_reading_first(spec, held.tables[0], frozenset(NAMES))
    assert not is_worth_reading_first(spec, held.tables[0], frozenset())
    ahead = first(spec, set(names))
    assert not found
    held.let_go()
    reading.join(10)
    (whole,) = found
    assert np.array_equal(
        ahead.table.columns[2].take(np.arange(400)).values, whole.columns[2].take(np.arange(400)).values  # type: ignore[union-attr]
    )  # fmt: skip


def test_a_reading_that_is_held_can_be_stopped(tmp_path: Path) -> None:
    spec, held, token = SourceSpec.of(written(tmp_path / "yard.csv", 3)), Held(), CancelToken()
    said = list[Exception | Table]()

    def read() -> None:
        try:
            said.append(open_table(spec, token, so_far=held))
        except StoppedError as error:
            said.append(error)

    reading = threading.Thread(target=read)
    reading.start()
    assert held.there.wait(10)
    time.sleep(0.1)
    assert not said
    token.cancel()
    reading.join(10)
    assert isinstance(said[0], StoppedError)


@pytest.mark.parametrize("suffix", [".csv.gz", ".jsonl"])
def test_what_is_to_be_unpacked_or_has_no_columns_is_not_read_first(tmp_path: Path, suffix: str) -> None:
    import gzip

    path = tmp_path / f"yard{suffix}"
    plain = written(tmp_path / "plain.csv", 1).read_bytes()
    path.write_bytes(gzip.compress(plain) if suffix.endswith("gz") else b'{"wood": "oak", "boards": 3}\n' * 50)
    so_far = TableSoFar(open_table(tmp_path / "plain.csv").info, tmp_path, [], 0.1)
    so_far.columns = open_table(tmp_path / "plain.csv").columns
    assert is_worth_reading_first(SourceSpec.of(tmp_path / "plain.csv"), so_far, frozenset({"boards"}))
    assert not is_worth_reading_first(SourceSpec.of(path), so_far, frozenset({"boards"}))
