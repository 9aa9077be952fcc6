from __future__ import annotations

import csv
from pathlib import Path

import pytest

from yardcut.core.errors import TargetError
from yardcut.core.sources.opening import open_table
from yardcut.core.writers.dropped_rows import write_dropped

TEXT = 'n,w\n1,a\n\n2,b,c\n"3\nx"\nn,w\n4,d\n'


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "dirty.csv").write_text(TEXT)
    return open_table(tmp_path / "dirty.csv").folder


def test_dropped_rows_are_saved_with_their_places(folder: Path, tmp_path: Path) -> None:
    assert write_dropped(folder, tmp_path / "out.csv") == 4
    with open(tmp_path / "out.csv", newline="", encoding="utf-8") as file:
        rows = list(csv.reader(file))
    assert rows == [
        ["file", "line", "reason", "row"],
        ["dirty.csv", "3", "blank row", ""],
        ["dirty.csv", "4", "too many cells", "2,b,c"],
        ["dirty.csv", "5", "too few cells", '"3\nx"'],
        ["dirty.csv", "7", "repeated header", "n,w"],
    ]


def test_dropped_rows_are_saved_as_they_stood(folder: Path, tmp_path: Path) -> None:
    assert write_dropped(folder, tmp_path / "out.txt") == 4
    assert (tmp_path / "out.txt").read_text() == '\n2,b,c\n"3\nx"\nn,w\n'
    assert not [entry for entry in tmp_path.iterdir() if entry.name.endswith(".part")]


def test_a_place_that_cannot_be_written_says_so(folder: Path, tmp_path: Path) -> None:
    with pytest.raises(TargetError, match="cannot be written"):
        write_dropped(folder, tmp_path / "nowhere" / "out.csv")


def test_a_source_without_dropped_rows_has_an_empty_list(tmp_path: Path) -> None:
    (tmp_path / "clean.csv").write_text("n\n1\n")
    assert write_dropped(open_table(tmp_path / "clean.csv").folder, tmp_path / "out.csv") == 0
    assert (tmp_path / "out.csv").read_text() == "file,line,reason,row\n"
