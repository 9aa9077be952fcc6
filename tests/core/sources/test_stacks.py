"""Several files as one table."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from helpers import ids_left
from yardcut.core.errors import SourceError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.ranking.hashing import row_rank
from yardcut.core.run.explaining.source_report import differences_of, sentences
from yardcut.core.sources.delimited_blocks.dropped import BLANK, REPEATED_HEADER
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table


def stacked(folder: Path, *files: str, lines: tuple[str, ...] = ()) -> Table:
    return open_table(SourceSpec(files, tuple(map(parse_sub_line, lines)), folder))


def cells(table: Table) -> dict[str, list[str | None]]:
    return {column.name: column.slice(0, table.rows).texts() for column in table.columns}


def test_columns_are_lined_up_by_name(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("x,y\n1,a\n2,b\n")
    (tmp_path / "b.csv").write_text("z;y;x\n9,5;c;3\n")
    (tmp_path / "c.csv").write_text("y\nd\n")
    table = stacked(tmp_path, "?.csv", "a.csv", lines=("file column f",))
    assert cells(table) == {
        "x": ["1", "2", "3", None], "y": ["a", "b", "c", "d"], "z": [None, None, "9.5", None],
        "f": ["a.csv", "a.csv", "b.csv", "c.csv"],
    }  # fmt: skip
    assert [differences_of(file, table) for file in table.info.files] == [
        "a.csv: has no z",
        "b.csv: alone has z",
        "c.csv: has no x, has no z",
    ]


def test_kinds_come_from_the_whole_stack(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,m,k\n" + "1,1,1\n" * 50)
    (tmp_path / "b.csv").write_text("n,m,k\n" + "1.5,x,007\n" * 50)
    table = stacked(tmp_path, "a.csv", "b.csv")
    assert [column.kind.value for column in table.columns] == ["number", "text", "text"]
    assert cells(table)["k"][-1] == "007"
    assert cells(table)["n"][0] == "1"
    assert [differences_of(file, table) for file in table.info.files] == [
        "a.csv: m looks like integer here, k looks like integer here",
        "",
    ]


def test_a_file_that_cannot_be_read_is_named_and_the_rest_goes_on(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("x\n1\n")
    (tmp_path / "b.csv").write_bytes(b"")
    (tmp_path / "c.csv").write_text("x\n3\n")
    table = stacked(tmp_path, "[abc].csv", lines=('kind x integer in "d.csv"',))
    assert cells(table) == {"x": ["1", "3"]}
    assert [file.number for file in table.info.files] == [0, 2]
    assert "left out b.csv" in table.info.left_out[0]
    assert 'no file of the source is called "d.csv"' in table.info.notes[0]
    assert sentences(table)[0] == table.info.left_out[0]
    with pytest.raises(SourceError, match="b.csv is empty"):
        stacked(tmp_path, "a.csv", "b.csv", "c.csv")
    with pytest.raises(SourceError, match="no file .*gone.csv"):
        stacked(tmp_path, "a.csv", "gone.csv")
    (tmp_path / "b2.csv").write_bytes(b"")
    with pytest.raises(SourceError, match="none of the files can be read"):
        stacked(tmp_path, "b*.csv")
    with pytest.raises(SourceError, match="no file matches"):
        stacked(tmp_path, "nothing*.csv")


def test_a_line_may_be_about_one_file(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Holzart,n\noak,1\n")
    (tmp_path / "b.csv").write_text("species,n\n-,?\n")
    table = stacked(
        tmp_path, "a.csv", "b.csv", lines=('call "Holzart" species in "a.csv"', "no value '-', '?' in \"b.csv\"")
    )
    assert cells(table) == {"species": ["oak", None], "n": ["1", None]}


def test_chance_goes_by_file_and_row_in_the_file(tmp_path: Path) -> None:
    for number, rows in enumerate((30, 50)):
        (tmp_path / f"{number}.csv").write_text("n\n" + "".join(f"{row}\n" for row in range(rows)))
    table = stacked(tmp_path, "0.csv", "1.csv")
    ranked = sorted(
        (row_rank(7, file, row), 30 * file + row) for file, rows in ((0, 30), (1, 50)) for row in range(rows)
    )
    assert sorted(ids_left(table, "draw random 12 seed 7")) == sorted(row for _, row in ranked[:12])
    more = tmp_path / "0.csv"
    more.write_text(more.read_text() + "new\n" * 9)
    grown = stacked(tmp_path, "0.csv", "1.csv")
    longer = {row for row in ids_left(grown, "draw random 12 seed 7") if row >= 39}
    assert {row - 9 for row in longer} <= {row for _, row in ranked[:12]}


def test_the_demo_years_stack_with_known_sums(yard: Path) -> None:
    table = stacked(yard, "yard_20*.csv")
    assert table.rows == sum(file.rows for file in table.info.files)
    assert table.info.dropped(REPEATED_HEADER) == 1
    assert table.info.dropped(BLANK) == 120
    expected = {"boards": 0.0, "list_price": 0.0}
    for year, delimiter in ((2029, ";"), (2030, ","), (2031, ",")):
        with open(yard / f"yard_{year}.csv", encoding="cp1252" if year == 2029 else "utf-8", newline="") as file:
            for row in csv.DictReader(file, delimiter=delimiter):
                for name in expected:
                    text = (row[name] or "").replace(",", ".") if year == 2029 else row[name] or ""
                    if text not in ("", "NA", "n/a", name):
                        expected[name] += float(text)
    found = cells(table)
    for name, total in expected.items():
        assert sum(float(text) for text in found[name] if text is not None) == pytest.approx(total)
    assert {file.label: "size_class" in file.differences.lacks for file in table.info.files} == {
        "yard_2029.csv": True, "yard_2030.csv": True, "yard_2031.csv": False
    }  # fmt: skip


def test_files_with_nothing_in_common_are_stacked_with_a_word(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a,b\n1,2\n")
    (tmp_path / "b.csv").write_text("c\n3\n")
    table = open_table(SourceSpec.of(tmp_path / "a.csv", tmp_path / "b.csv"))
    assert (table.rows, len(table.columns)) == (2, 3)
    assert "the files have no column in common: are they of one kind?" in table.info.notes


@pytest.mark.parametrize("ending", ["csv", "parquet"])
def test_only_some_columns_of_one_file(tmp_path: Path, ending: str) -> None:
    for name in ("a", "b"):
        (tmp_path / f"{name}.csv").write_text("n,w,x\n1,oak,5\n2,ash,6\n")
        if ending == "parquet":
            from pyarrow import csv, parquet

            parquet.write_table(csv.read_csv(tmp_path / f"{name}.csv"), tmp_path / f"{name}.parquet")
    spec = SourceSpec.of(tmp_path / f"a.{ending}", tmp_path / f"b.{ending}")
    table = open_table(spec.with_line(parse_sub_line(f'only w, n in "b.{ending}"')))
    cells = {column.name: column.slice(0, 4).texts() for column in table.columns}
    assert cells == {"n": ["1", "2", "1", "2"], "w": ["oak", "ash", "oak", "ash"], "x": ["5", "6", None, None]}
    table = open_table(spec.with_line(parse_sub_line("only w")))
    assert [column.name for column in table.columns] == ["w"]
