"""Everything that reading left out, with its file and line, against a plain walk over the same text."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from yardcut.core.errors import TargetError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.outgoing import Outgoing
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.left_out import left_out, write_left_out

TEXT = 'n,w\n1,a\n\n2,b,c\n"3\nx"\nn,w\n4,d\n'
HEADER = ["file", "line", "row", "column", "reason", "text"]


@pytest.fixture
def table(tmp_path: Path) -> Table:
    (tmp_path / "dirty.csv").write_text(TEXT)
    return open_table(tmp_path / "dirty.csv")


def written(table: Table, path: Path) -> list[list[str]]:
    write_left_out(table, Outgoing(path))
    with open(path, newline="", encoding="utf-8") as file:
        return list(csv.reader(file))


def test_dropped_rows_are_saved_with_their_places(table: Table, tmp_path: Path) -> None:
    assert left_out(table) == (4, 0)
    assert written(table, tmp_path / "out.csv") == [
        HEADER,
        ["dirty.csv", "3", "", "", "blank row", ""],
        ["dirty.csv", "4", "", "", "too many cells", "2,b,c"],
        ["dirty.csv", "5", "", "", "too few cells", '"3\nx"'],
        ["dirty.csv", "7", "", "", "repeated header", "n,w"],
    ]


def test_dropped_rows_are_saved_as_they_stood(table: Table, tmp_path: Path) -> None:
    write_left_out(table, Outgoing(tmp_path / "out.txt"))
    assert (tmp_path / "out.txt").read_text() == '\n2,b,c\n"3\nx"\nn,w\n'
    assert not [entry for entry in tmp_path.iterdir() if entry.name.endswith(".part")]


def test_a_place_that_cannot_be_written_says_so(table: Table, tmp_path: Path) -> None:
    with pytest.raises(TargetError, match="no directory"):
        write_left_out(table, Outgoing(tmp_path / "nowhere" / "out.csv"))


def test_a_clean_source_has_an_empty_list(tmp_path: Path) -> None:
    (tmp_path / "clean.csv").write_text("n\n1\n")
    assert written(open_table(tmp_path / "clean.csv"), tmp_path / "out.csv") == [HEADER]


@pytest.mark.parametrize("declared", [False, True])
@pytest.mark.parametrize("broken", [False, True])
def test_every_value_set_aside_has_its_file_and_line(tmp_path: Path, declared: bool, broken: bool) -> None:
    """Guessed kinds, declared kinds, cells with line feeds, dropped rows and two files: all places are found."""
    expected: list[list[str]] = []
    row = 0
    for name in ("a.csv", "b.csv"):
        lines = ["n,day,remark"]
        for number in range(4000):
            odd = number % 1500 == 700
            cell = "odd" if odd else str(number)
            day = "soon" if odd else f"{number % 28 + 1:02d}.03.2031"
            if number % 900 == 5:
                lines.append("")
            remark = '"two\nlines"' if broken and number % 3 == 0 else "one"
            row += 1
            if odd:
                line = str(sum(text.count("\n") + 1 for text in lines) + 1)
                expected.append([name, line, str(row), "n", "no integer", "odd"])
                if declared:
                    expected.append([name, line, str(row), "day", "no date", "soon"])
            lines.append(f"{cell},{day},{remark}")
        (tmp_path / name).write_text("\n".join(lines) + "\n")
    spec = SourceSpec.of(tmp_path / "a.csv", tmp_path / "b.csv")
    if declared:
        spec = spec.with_line(parse_sub_line("kind day date 'DD.MM.YYYY'"))
        spec = spec.with_line(parse_sub_line("kind n integer"))
    found = [row for row in written(open_table(spec), tmp_path / "out.csv")[1:] if row[3]]
    wanted = [row for row in expected if row[3] == "n"] + [row for row in expected if row[3] == "day"]
    if not declared:  # day-first fits alone, so the day is found without being declared, and its odd values too
        wanted += [[*row[:3], "day", "no date", "soon"] for row in expected]
    assert found == wanted


def test_the_places_are_read_back_as_they_were_written(tmp_path: Path) -> None:
    (tmp_path / "t.csv").write_text("n\n" + "".join(f"{number}\n" for number in range(2000)) + "--\n")
    table = open_table(tmp_path / "t.csv")
    (value,) = read_set_aside(table.folder, 0)
    assert (value.row, value.file_number, value.line, value.text) == (2000, 0, 2002, "--")
    assert list(read_set_aside(table.folder, 5)) == []
