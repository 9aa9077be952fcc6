"""Reading delimited text, cell for cell against the standard library's csv module."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.errors import SourceError, StoppedError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.delimited_blocks.dropped import BLANK, TOO_FEW, TOO_MANY
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import FormLine, SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind
from yardcut.core.values.missing import MISSING_TEXTS


def opened(path: Path, content: str | bytes) -> Table:
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return open_table(path)


def cells_of(table: Table) -> list[list[str | None]]:
    columns = [column.slice(0, table.rows).texts() for column in table.columns]
    return [list(row) for row in zip(*columns, strict=True)]


def kinds_of(table: Table) -> list[Kind]:
    return [column.kind for column in table.columns]


CELLS = st.sampled_from(
    ["", "a", "oak", 'say "so"', "a,b", "line\nbreak", "é", "乾", "007", "0x1F", " 5", "NA", "n/a", "'", ";", "\t", "🌲",
     '6" plank', '""', "ends with \"", "\\n", "true", "12", "-3.5"]
)  # fmt: skip


@given(st.integers(2, 5).flatmap(lambda width: st.lists(st.lists(CELLS, min_size=width, max_size=width), min_size=1)))
@settings(max_examples=examples(120), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_every_cell_is_what_the_csv_module_reads(tmp_path: Path, rows: list[list[str]]) -> None:
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    writer.writerow([f"c{number}" for number in range(len(rows[0]))])
    writer.writerows(rows)
    # a text column keeps the column text whatever else stands in it
    (tmp_path / "t.csv").write_text(text.getvalue() + ",".join(["a word"] * len(rows[0])) + "\n", newline="")
    table = open_table(SourceSpec((str(tmp_path / "t.csv"),), (FormLine(footer=0),)))
    read = list(csv.reader(io.StringIO(text.getvalue(), newline="")))[1:]
    expected = [
        [None if cell in MISSING_TEXTS else cell for cell in row] for row in read if any(cell.strip() for cell in row)
    ]
    found = cells_of(table)[:-1]
    for column, kind in enumerate(kinds_of(table)):
        if kind is Kind.TEXT:
            assert [row[column] for row in found] == [row[column] for row in expected]


@pytest.mark.parametrize(
    ("cells", "kind", "shown"),
    [
        (["1", "2", ""], Kind.INTEGER, ["1", "2", None]),
        (["1", "2.5", "NA"], Kind.NUMBER, ["1", "2.5", None]),
        (["007", "12", "3"], Kind.TEXT, ["007", "12", "3"]),
        (["0x10", "12", "3"], Kind.TEXT, ["0x10", "12", "3"]),
        (["0", "0.5", "-0.25"], Kind.NUMBER, ["0", "0.5", "-0.25"]),
        (["9223372036854775807", "-9223372036854775808", "1"], Kind.INTEGER,
         ["9223372036854775807", "-9223372036854775808", "1"]),
        (["9223372036854775808", "1", "2"], Kind.TEXT, ["9223372036854775808", "1", "2"]),
        (["4100000002031000001", "4100000002031000002", ""], Kind.INTEGER,
         ["4100000002031000001", "4100000002031000002", None]),
        (["true", "FALSE", "True"], Kind.BOOLEAN, ["true", "false", "true"]),
        (["0", "1", "1"], Kind.INTEGER, ["0", "1", "1"]),
        (["2031-03-01", "1969-12-31", "n/a"], Kind.DATE, ["2031-03-01", "1969-12-31", None]),
        (["2031-02-30", "2031-03-01", "2031-03-02"], Kind.TEXT, ["2031-02-30", "2031-03-01", "2031-03-02"]),
        (["2031-03-01 10:00:00", "2031-03-01T10:00:00.5", ""], Kind.TIMESTAMP,
         ["2031-03-01 10:00:00", "2031-03-01 10:00:00.500000", None]),
        (["inf", "1", "2"], Kind.TEXT, ["inf", "1", "2"]),
        (["1e3", "2", "nan"], Kind.NUMBER, ["1000", "2", None]),
        (["", "", ""], Kind.TEXT, [None, None, None]),
        (["01.02.2031", "03.04.2031", ""], Kind.TEXT, ["01.02.2031", "03.04.2031", None]),
    ],
)  # fmt: skip
def test_a_column_takes_the_narrowest_kind_that_loses_nothing(
    tmp_path: Path, cells: list[str], kind: Kind, shown: list[str | None]
) -> None:
    table = opened(tmp_path / "t.csv", "a,b\n" + "".join(f"{cell},x\n" for cell in cells))
    assert table.columns[0].kind is kind
    assert table.columns[0].slice(0, table.rows).texts() == shown


def long_column(late: str, rows: int = 60_000, where: float = 0.95) -> str:
    """Return a file whose first column is whole numbers but for one late cell."""
    cells = [str(row % 97) for row in range(rows)]
    cells[int(rows * where)] = late
    return "number,pad\n" + "".join(f"{cell},{'x' * 60}\n" for cell in cells)


def test_a_late_word_is_set_aside_with_its_place(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", long_column("--"))
    info = table.columns[0].info
    assert (info.kind, info.set_aside, info.set_aside_texts) == (Kind.INTEGER, 1, (("--", 1),))
    assert table.columns[0].slice(57_000, 57_001).texts() == [None]
    assert [(value.row, value.line) for value in read_set_aside(table.folder, 0)] == [(57_000, 57_002)]


@pytest.mark.parametrize(("late", "kind"), [("2.5", Kind.NUMBER), ("007", Kind.TEXT), (str(2**63), Kind.TEXT)])
def test_a_late_value_that_needs_another_kind_is_not_lost(tmp_path: Path, late: str, kind: Kind) -> None:
    table = opened(tmp_path / "t.csv", long_column(late))
    column = table.columns[0]
    assert column.kind is kind
    assert column.slice(57_000, 57_001).texts() == [late]
    assert column.slice(0, 3).texts() == ["0", "1", "2"]
    assert column.info.set_aside == 0
    assert table.rows == 60_000


def test_more_odd_values_than_one_in_a_thousand_make_a_column_text(tmp_path: Path) -> None:
    text = "a,b\n" + "".join(f"{'odd' if row % 900 == 899 else row},x\n" for row in range(9000))
    assert opened(tmp_path / "t.csv", text).columns[0].kind is Kind.TEXT


def test_many_different_odd_values_make_a_column_text(tmp_path: Path) -> None:
    rows = 60_000
    cells = [str(row) for row in range(rows)]
    for odd in range(25):
        cells[rows // 2 + odd * 100] = f"odd {odd}"
    table = opened(tmp_path / "t.csv", "a,b\n" + "".join(f"{cell},{'y' * 50}\n" for cell in cells))
    assert table.columns[0].kind is Kind.TEXT
    assert table.columns[0].slice(30_000, 30_002).texts() == ["odd 0", "30001"]


def test_a_column_that_begins_empty_gets_its_kind_later(tmp_path: Path) -> None:
    rows = 60_000
    body = "".join(f"{row if row > 50_000 else ''},{'z' * 60}\n" for row in range(rows))
    table = opened(tmp_path / "t.csv", "a,b\n" + body)
    assert table.columns[0].kind is Kind.INTEGER
    assert table.columns[0].slice(50_000, 50_002).texts() == [None, "50001"]


def test_a_column_of_many_texts_is_kept_as_bytes(tmp_path: Path) -> None:
    rows = 5000
    table = opened(
        tmp_path / "t.csv", "a,b\n" + "".join(f"é{row}\u2028,{'' if row % 7 else 'n'}\n" for row in range(rows))
    )
    assert table.columns[0].info.storage == "plain"
    assert table.columns[0].slice(4998, 5000).texts() == ["é4998\u2028", "é4999\u2028"]
    assert table.columns[1].slice(0, 2).texts() == ["n", None]


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
@pytest.mark.parametrize("ending", ["\n", "\r\n"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_delimiter_line_ends_and_encoding_are_found(tmp_path: Path, delimiter: str, ending: str, encoding: str) -> None:
    lines = [["name", "größe", "note"], ["oak", "12", "café"], ["ash", "13", f'"a{delimiter}b"'], ["elm", "", "x"]]
    text = ending.join(delimiter.join(line) for line in lines) + ending
    table = opened(tmp_path / "t.csv", text.encode(encoding))
    assert [column.name for column in table.columns] == ["name", "größe", "note"]
    assert cells_of(table) == [["oak", "12", "café"], ["ash", "13", f"a{delimiter}b"], ["elm", None, "x"]]


def test_a_decimal_comma_is_found(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", "a;b\n1,5;x\n2,25;y\n-3;z\n")
    assert table.columns[0].kind is Kind.NUMBER
    assert cells_of(table) == [["1.5", "x"], ["2.25", "y"], ["-3", "z"]]


def test_blank_rows_and_rows_of_another_width_are_counted(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", "a,b\n1,2\n\n\n3,4\n5\n6,7,8\n9,10\n")
    assert (table.rows, table.info.dropped(BLANK), table.info.dropped(TOO_MANY, TOO_FEW)) == (3, 2, 2)


def test_names_are_trimmed_filled_and_told_apart(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", ' a ,,a,a_2,"x [red]\n",\n1,2,3,4,5,6\n')
    assert [column.name for column in table.columns] == ["a", "column_2", "a_3", "a_2", "x [red]", "column_6"]


def test_bytes_that_are_not_utf8_far_down_are_kept_readable(tmp_path: Path) -> None:
    body = b"a,b\n" + b"".join(b"%d,%s\n" % (row, b"x" * 60) for row in range(60_000)) + b"60000,caf\xe9\n"
    table = opened(tmp_path / "t.csv", body)
    assert table.rows == 60_001
    assert table.columns[1].slice(60_000, 60_001).texts() == ["café"]


def test_a_quote_that_never_closes_names_its_line(tmp_path: Path) -> None:
    with pytest.raises(SourceError, match="line 3: a quote opens here and never closes"):
        opened(tmp_path / "t.csv", 'a,b\n1,2\n3,"4\n5,6\n')


def test_plain_quotes_inside_cells_do_not_open(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", 'a,b\n6" plank,x\n"two\nlines, ""quoted""",y\n5" plank,z\n')
    assert cells_of(table) == [['6" plank', "x"], ['two\nlines, "quoted"', "y"], ['5" plank', "z"]]


def test_blocks_cut_anywhere_give_the_same_rows(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    rows = "".join(f'{row},"a ""quoted"", text\nin two lines {row}",{row / 4}\n' for row in range(900))
    whole = cells_of(opened(tmp_path / "one.csv", "n,t,r\n" + rows))
    for size in (37, 64, 1000):
        monkeypatch.setattr(delimited, "_BLOCK_BYTES", size)
        monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
        assert cells_of(opened(tmp_path / f"{size}.csv", "n,t,r\n" + rows)) == whole


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"", "is empty"),
        (b"\n\n\n", "only blank lines"),
        (b"\x7fELF\x00\x01\x02", "looks like a program"),
        (b"PAR1 and nothing else", "not a whole Parquet file"),
    ],
)
def test_what_is_no_table_says_so(tmp_path: Path, content: bytes, says: str) -> None:
    with pytest.raises(SourceError, match=says):
        opened(tmp_path / "t.csv", content)


def test_missing_files_and_directories_say_so(tmp_path: Path) -> None:
    with pytest.raises(SourceError, match="there is no file"):
        open_table(tmp_path / "none.csv")
    with pytest.raises(SourceError, match="is a directory"):
        open_table(tmp_path)


def test_a_header_alone_is_a_table_without_rows(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", "a,b,c\n")
    assert (table.rows, len(table.columns)) == (0, 3)


def test_one_column_and_one_row(tmp_path: Path) -> None:
    assert cells_of(opened(tmp_path / "t.csv", "a\n1")) == [["1"]]


def test_three_thousand_columns(tmp_path: Path) -> None:
    names = ",".join(f"c{number}" for number in range(3000))
    row = ",".join(str(number) for number in range(3000))
    table = opened(tmp_path / "t.csv", f"{names}\n{row}\n{row}\n")
    assert len(table.columns) == 3000
    assert table.columns[2999].slice(0, 2).texts() == ["2999", "2999"]


def test_a_second_opening_finds_the_store_and_a_change_is_noticed(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    first = opened(path, "a\n1\n")
    assert open_table(path).folder == first.folder
    changed = opened(path, "a\n1\n2\n")
    assert changed.rows == 2
    assert changed.folder != first.folder


def test_a_damaged_store_is_built_anew(tmp_path: Path) -> None:
    first = opened(tmp_path / "t.csv", "a\n1\n2\n")
    (first.folder / "manifest.json").write_text("{")
    assert cells_of(open_table(tmp_path / "t.csv")) == [["1"], ["2"]]


def test_reading_can_be_stopped_and_leaves_nothing(tmp_path: Path) -> None:
    from yardcut.core.sources.store.own_folders import stores_folder

    path = tmp_path / "t.csv"
    path.write_text(long_column("5"))
    before = set(stores_folder().iterdir())
    token = CancelToken()
    token.cancel()
    with pytest.raises(StoppedError):
        open_table(path, token, Progress())
    assert set(stores_folder().iterdir()) == before
