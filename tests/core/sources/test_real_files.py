"""Files as people get them: titles, comments, several header rows, other marks, compression, damage."""

from __future__ import annotations

import bz2
import gzip
import lzma
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.errors import SourceError
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.delimited_blocks.dropped import (
    ABOVE,
    BLANK,
    COMMENT,
    REPEATED_HEADER,
    TOO_FEW,
    TOO_MANY,
    Dropped,
    read_dropped,
)
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

ROWS = "".join(f"{row},{row / 4},w{row % 7}\n" for row in range(5000))


def opened(path: Path, content: str | bytes, *lines: str) -> Table:
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, lines))))


def column(table: Table, name: str) -> list[str | None]:
    place = [column.name for column in table.columns].index(name)
    return table.columns[place].slice(0, table.rows).texts()


def kinds(table: Table) -> dict[str, str]:
    return {column.name: column.kind.value for column in table.columns}


def dropped(table: Table) -> list[Dropped]:
    return [row for _, row in read_dropped(table.folder)]


@pytest.mark.parametrize(
    "pack", [gzip.compress, bz2.compress, lzma.compress, lambda data: pa.compress(data, "zstd", asbytes=True)]
)
def test_a_compressed_file_is_the_file(tmp_path: Path, pack: object) -> None:
    table = opened(tmp_path / "packed", pack(("a,b,c\n" + ROWS).encode()))  # type: ignore[operator]
    assert table.rows == 5000
    assert kinds(table) == {"a": "integer", "b": "number", "c": "text"}
    assert column(table, "a")[-1] == "4999"


@pytest.mark.few(2)
@pytest.mark.parametrize(
    "pack", [gzip.compress, bz2.compress, lzma.compress, lambda data: pa.compress(data, "zstd", asbytes=True)]
)
def test_a_compressed_file_that_breaks_off_says_so(tmp_path: Path, pack: object) -> None:
    whole = pack(("a,b,c\n" + ROWS * 40).encode())  # type: ignore[operator]
    with pytest.raises(SourceError, match="not a whole"):
        opened(tmp_path / "cut", whole[: len(whole) * 2 // 3])


def test_titles_and_comments_above_the_header_are_passed_over(tmp_path: Path) -> None:
    table = opened(tmp_path / "title.csv", "Harrowmere yard\nprinted 2031\n\na,b\n1,x\n2,y\n")
    assert kinds(table) == {"a": "integer", "b": "text"}
    assert [(row.reason, row.line) for row in dropped(table)] == [(ABOVE, 1), (ABOVE, 2)]
    table = opened(tmp_path / "comments.csv", "# made by hand\n# twice\na,b\n1,x\n# here too\n2,y\n")
    assert (table.rows, kinds(table)["a"]) == (2, "integer")
    assert [(row.reason, row.line) for row in dropped(table)] == [(COMMENT, 1), (COMMENT, 2), (COMMENT, 5)]


def test_two_header_rows_are_joined_and_no_header_is_noticed(tmp_path: Path) -> None:
    two = opened(tmp_path / "two.csv", "length,width,note\nmm,mm,\n" + "".join(f"{n},{n + 1},ok\n" for n in range(9)))
    assert kinds(two) == {"length mm": "integer", "width mm": "integer", "note": "text"}
    none = opened(tmp_path / "none.csv", "".join(f"{n},w{n},2031-03-0{n + 1}\n" for n in range(9)))
    assert kinds(none) == {"column_1": "integer", "column_2": "text", "column_3": "date"}
    assert none.rows == 9
    words = opened(tmp_path / "words.csv", "a,b\nx,y\nz,w\n")
    assert (words.rows, list(kinds(words))) == (2, ["a", "b"])


@pytest.mark.parametrize(
    ("content", "values"),
    [
        ("n;w\n1.234,5;a\n2.000.000,25;b\n-3;c\n", ["1234.5", "2000000.25", "-3"]),
        ('n,w\n"1,234.5",a\n"2,000,000.25",b\n-3,c\n', ["1234.5", "2000000.25", "-3"]),
        ("n\tw\n1,5\ta\n2,25\tb\n", ["1.5", "2.25"]),
        ("n|w\n1.5|a\n2.25|b\n", ["1.5", "2.25"]),
    ],
)
def test_marks_of_numbers_are_found(tmp_path: Path, content: str, values: list[str]) -> None:
    table = opened(tmp_path / "marks.csv", content)
    assert kinds(table)["n"] == "number"
    assert column(table, "n") == values


def test_other_encodings_are_found(tmp_path: Path) -> None:
    russian = "порода,сорт\n" + "дуб,первый\nясень,второй\nлиственница,третий\n" * 30
    table = opened(tmp_path / "cyrillic.csv", russian.encode("cp1251"))
    assert column(table, "порода")[:2] == ["дуб", "ясень"]
    table = opened(tmp_path / "latin.csv", "Holz,Güte\nEiche,für\n".encode("cp1252"))
    assert list(kinds(table)) == ["Holz", "Güte"]
    table = opened(tmp_path / "said.csv", "Holz,Güte\nEiche,für\n".encode("cp850"), "form encoding 'cp850'")
    assert list(kinds(table)) == ["Holz", "Güte"]
    with pytest.raises(SourceError, match="no encoding klingon"):
        opened(tmp_path / "x.csv", "a,b\n1,2\n", "form encoding 'klingon'")


@pytest.mark.parametrize(
    ("texts", "kind", "first"),
    [
        (["31.01.2031", "01.02.2031"], "date", "2031-01-31"),
        (["01/31/2031", "02/01/2031"], "date", "2031-01-31"),
        (["2031/01/31", "2031/02/01"], "date", "2031-01-31"),
        (["31.01.2031 10:30", "01.02.2031 09:00"], "timestamp", "2031-01-31 10:30:00"),
        (["01.02.2031", "03.04.2031"], "text", "01.02.2031"),
        (["20310131", "20310201"], "integer", "20310131"),
    ],
)
def test_days_are_read_where_only_one_pattern_fits(tmp_path: Path, texts: list[str], kind: str, first: str) -> None:
    table = opened(tmp_path / "days.csv", "day,x\n" + "".join(f"{text},1\n" for text in texts))
    assert kinds(table)["day"] == kind
    assert column(table, "day")[0] == first
    if texts[0] == "01.02.2031":
        assert "may be days in several forms" in table.columns[0].info.doubt


@pytest.mark.parametrize(
    ("line", "texts", "values"),
    [
        ("kind c date 'YYYYMMDD'", ["20310131", "0"], ["2031-01-31", None]),
        ("kind c date 'DD.MM.YYYY'", ["01.02.2031", "x"], ["2031-02-01", None]),
        ("kind c date 'DD MON YY'", ["31 Jan 31", "1 Feb 99"], ["2031-01-31", "1999-02-01"]),
        ("kind c date serial", ["47879", "1"], ["2031-01-31", "1899-12-31"]),
        ("kind c timestamp unix", ["1927620000", "0"], ["2031-01-31 10:00:00", "1970-01-01 00:00:00"]),
        ("kind c timestamp unix ms", ["1500", "0"], ["1970-01-01 00:00:01.500000", "1970-01-01 00:00:00"]),
        ("kind c timestamp unix", ["253402300799", "253402300800"], ["9999-12-31 23:59:59", None]),
        ("kind c timestamp unix", ["-62135596800", "-62135596801"], ["0001-01-01 00:00:00", None]),
        ("kind c date serial", ["2958465", "2958466"], ["9999-12-31", None]),
        ("kind c timestamp 'DD.MM.YYYY HH:MI'", ["31.01.2031 10:30", "x"], ["2031-01-31 10:30:00", None]),
        ("kind c boolean 'J', 'N'", ["J", "n"], ["true", "false"]),
        ("kind c boolean 'yes', 'no'", ["yes", "maybe"], ["true", None]),
        ("kind c text", ["1", "2"], ["1", "2"]),
        ("kind c integer", ["007", "x"], ["7", None]),
        ("kind c number", ["1", "2.5"], ["1", "2.5"]),
    ],
)
def test_a_declared_kind_is_taken_and_the_rest_set_aside(
    tmp_path: Path, line: str, texts: list[str], values: list[str | None]
) -> None:
    table = opened(tmp_path / "kind.csv", "c,x\n" + "".join(f"{text},1\n" for text in texts), line)
    assert column(table, "c") == values
    assert table.columns[0].info.set_aside == values.count(None)


def test_sub_lines_change_what_is_read(tmp_path: Path) -> None:
    content = "a;b;c\n1;--;x\n--;2;NA\n"
    table = opened(tmp_path / "t.csv", content, "no value '--'")
    assert kinds(table) == {"a": "integer", "b": "integer", "c": "text"}
    assert column(table, "c") == ["x", "NA"]
    table = opened(tmp_path / "t.csv", content, "no value '--' in a")
    assert kinds(table)["a"] == "integer"
    assert column(table, "b") == ["--", "2"]
    table = opened(tmp_path / "t.csv", content, "only b, c")
    assert list(kinds(table)) == ["b", "c"]
    table = opened(tmp_path / "t.csv", content, "call b width", 'call #3 "the note"')
    assert list(kinds(table)) == ["a", "width", "the note"]
    table = opened(tmp_path / "t.csv", content, "form header no")
    assert (table.rows, list(kinds(table))) == (3, ["column_1", "column_2", "column_3"])
    table = opened(tmp_path / "t.csv", content, "form delimiter ','")
    assert list(kinds(table)) == ["a;b;c"]
    table = opened(tmp_path / "t.csv", content, "form skip 1 header no")
    assert (table.rows, len(table.columns)) == (2, 3)
    table = opened(tmp_path / "t.csv", content, "file column from_file")
    assert column(table, "from_file") == ["t.csv", "t.csv"]


def test_bytes_that_are_not_utf8_are_read_and_their_place_is_told(tmp_path: Path) -> None:
    content = b"a,b\n" + "1,é\n".encode() * 200_000 + b"2,\xff\n" + "3,ü\n".encode() * 10
    table = opened(tmp_path / "mixed.csv", content)
    assert column(table, "b")[200_000:200_002] == ["ÿ", "ü"]
    assert table.info.notes == (
        "mixed.csv, line 200,002: bytes that are no UTF-8 were read as Windows-1252, from here on",
    )


def test_every_dropped_row_has_its_place(tmp_path: Path) -> None:
    content = 'a,b\n1,2\n\n3,"x\ny"\n4,5,6\na,b\n7\n8,9\n'
    table = opened(tmp_path / "dirty.csv", content)
    assert column(table, "a") == ["1", "3", "8"]
    assert dropped(table) == [
        Dropped(BLANK, 3, ""), Dropped(TOO_MANY, 6, "4,5,6"), Dropped(REPEATED_HEADER, 7, "a,b"), Dropped(TOO_FEW, 8, "7"),
    ]  # fmt: skip
    assert table.info.dropped() == 4
    assert table.info.dropped(BLANK) == 1


def test_a_value_set_aside_has_its_line(tmp_path: Path) -> None:
    rows = [f"{row},w" for row in range(3000)]
    rows[1500] = "odd,w"
    rows.insert(10, "")
    table = opened(tmp_path / "aside.csv", "a,b\n" + "\n".join(rows) + "\n")
    assert table.columns[0].kind is Kind.INTEGER
    (aside,) = read_set_aside(table.folder, 0)
    assert (aside.text, aside.row, aside.line) == ("odd", 1500, 1503)


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.binary(max_size=400) | st.text('a1,;"\n\r\t#.- \x00é', max_size=200).map(str.encode),
    st.sampled_from([b"", b"a,b\n", b"\xef\xbb\xbfa;b\n", b"\xff\xfe", b"# x\n", b"[{", b'{"a":', b"PAR1", b"PK\x03\x04",
                     b"SQLite format 3\x00", b"ARROW1", b"\x1f\x8b", b"BZh", b"\x28\xb5\x2f\xfd"]),
)  # fmt: skip
def test_no_bytes_bring_the_reader_down(tmp_path: Path, content: bytes, start: bytes) -> None:
    """Whatever a file holds: a table, or one error with a sentence; and no row is lost uncounted."""
    path = tmp_path / "any"
    path.write_bytes(start + content)
    try:
        table = open_table(path)
    except SourceError as error:
        assert str(error)
        assert "\n" not in error.message
    else:
        assert all(len(column.slice(0, table.rows).texts()) == table.rows for column in table.columns)


@settings(max_examples=examples(40), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_damage_to_a_good_file_loses_no_row_uncounted(tmp_path: Path, data: st.DataObject) -> None:
    good = bytearray(("id,word,real\n" + "".join(f"{n},w{n % 5},{n / 3:.3f}\n" for n in range(200))).encode())
    for _ in range(data.draw(st.integers(1, 6))):
        place = data.draw(st.integers(13, len(good) - 1))
        good[place] = data.draw(st.sampled_from(list(b'x,\n;9 \xc3"')))
    path = tmp_path / "damaged.csv"
    path.write_bytes(bytes(good))
    try:
        table = open_table(path)
    except SourceError:
        return
    import csv
    import io

    lines = bytes(good).decode("utf-8", "replace").splitlines()
    records = sum(1 for record in csv.reader(io.StringIO(bytes(good).decode("cp1252"), newline="")))
    header_rows = int(str(table.info.files[0].form["header"]))
    assert table.rows + table.info.dropped() + header_rows in (records, len(lines), records + lines.count(""))
