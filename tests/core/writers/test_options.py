"""What a save line says of how its file is written: read back by the csv module and other readers that are not ours."""

from __future__ import annotations

import bz2
import csv
import gzip
import io
import json
import lzma
import random
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from slices import cut
from thoroughness import examples
from yardcut.core.errors import ListError, SourceError, TargetError, YardcutError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.syntax.save_words import parse_save_words, wrong_words
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.vectors import NumericVector
from yardcut.core.unattended import run_cut
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.parting import file_name_of
from yardcut.core.writers.targets import RunOptions
from yardcut.core.writers.texts.own_texts import RowsAsTheyStand

SOURCE = """ticket,species,price,day,flag,n
001,oak,1.50,2031-03-01,TRUE,5
002,"oak, red",2.00,2031-03-02,true,NA
003,"a ""b""
c",NA,2031-03-3,False,+7
004,NA,10.5e1,,, 8
005,=1+2,7,2031-03-05,true,9
"""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(SOURCE)
    return tmp_path


def read(text: str, **form: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(text, newline=""), **form))  # type: ignore[arg-type] # names of the csv module's own


ROWS = read(SOURCE)


def test_a_cell_nobody_computed_leaves_as_it_came(folder: Path) -> None:
    cut(folder, "make twice = price * 2", "order ticket DESC", out="o.csv")
    found = read((folder / "o.csv").read_text())
    assert [row[:6] for row in found] == [ROWS[0], *ROWS[:0:-1]]
    assert [row[6] for row in found] == ["twice", "14", "210", "", "4", "3"]


def test_open_save_open_save_is_byte_for_byte_the_same(folder: Path) -> None:
    cut(folder, out="b.csv")
    cut(folder, source="b.csv", out="c.csv")
    assert (folder / "b.csv").read_bytes() == (folder / "c.csv").read_bytes() == SOURCE.encode()


def test_rows_that_reading_dropped_do_not_shift_the_texts(tmp_path: Path) -> None:
    text = "n,price\n1,1.50\n\n2,2.50\nn,price\n,\n3,3.50\n4,4.50,x\n5,5.50\n"
    (tmp_path / "a.csv").write_text(text)
    cut(tmp_path, "keep n <> 2", "order n DESC", out="o.csv")
    assert (tmp_path / "o.csv").read_text() == "n,price\n5,5.50\n3,3.50\n1,1.50\n"


def test_a_stack_gives_each_file_its_own_texts(tmp_path: Path) -> None:
    (tmp_path / "y1.csv").write_text("n,price\n1,1.50\n2,2.0\n")
    (tmp_path / "y2.csv").write_text("price,n,more\n3.50,3,007\n4.0,4,\n")
    cut(tmp_path, "order n DESC", source="y?.csv", out="o.csv")
    assert (tmp_path / "o.csv").read_text() == "n,price,more\n4,4.0,\n3,3.50,007\n2,2.0,\n1,1.50,\n"


def test_files_that_write_numbers_differently_are_written_exactly_and_it_is_said(tmp_path: Path) -> None:
    (tmp_path / "y1.csv").write_text("n;price\n1;1.50\n2;2.25\n")
    (tmp_path / "y2.csv").write_text("n;price\n3;3,50\n4;4,25\n")
    said = cut(tmp_path, "columns n, price", source="y?.csv", out="o.csv")
    assert (tmp_path / "o.csv").read_text() == "n,price\n1,1.5\n2,2.25\n3,3.5\n4,4.25\n"
    assert any("in several ways" in note for note in said)


def test_a_source_that_is_another_by_now_is_not_read_again(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,price\n1,1.50\n2,2.25\n")
    spec = SourceSpec((str(tmp_path / "a.csv"),))
    session = Session(spec)
    session.open()
    (tmp_path / "a.csv").write_text("n,price\n7,7.50\n8,8.25\n9,9.0\n")
    report = run_cut(session, 0, RunOptions(tmp_path / "o.csv"), CancelToken(), Progress())
    assert (tmp_path / "o.csv").read_text() == "n,price\n1,1.5\n2,2.25\n"
    assert any("another by now" in note for note in report.notes)


@pytest.mark.parametrize("now", ["n,price\n7,7.50\n8,8.25\n", "n,price\n7,7.50\n8,8.25\n9,9.0\n", ""])
def test_a_source_that_changes_while_its_rows_go_over_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, now: str
) -> None:
    (tmp_path / "a.csv").write_text("n,price\n1,1.50\n2,2.25\n")
    (tmp_path / "o.csv").write_text("what stood there")
    session = Session(SourceSpec((str(tmp_path / "a.csv"),)))
    session.open()
    rows = RowsAsTheyStand.whole_rows

    def changed(self: RowsAsTheyStand, piece: Frame, token: CancelToken, progress: Progress) -> Iterator[bytes]:
        (tmp_path / "a.csv").write_text(now)
        yield from rows(self, piece, token, progress)

    monkeypatch.setattr(RowsAsTheyStand, "whole_rows", changed)
    with pytest.raises(SourceError, match="changed while its rows were written: they are not all of one file"):
        run_cut(session, 0, RunOptions(tmp_path / "o.csv", replace=True), CancelToken(), Progress())
    assert (tmp_path / "o.csv").read_text() == "what stood there"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a.csv", "o.csv"]


cells = st.text(st.sampled_from('0159.,;-+eNA"\n =TF\t é'), max_size=6)


@settings(max_examples=examples(40), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(cells, cells, cells), min_size=1, max_size=12), st.integers(0, 99), st.sampled_from(",;\t"))
def test_hostile_cells_leave_as_they_came(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, str, str]], seed: int, delimiter: str
) -> None:
    """Against the csv module: what it reads of the slice is what it read of the source, but for dropped rows."""
    folder = tmp_path_factory.mktemp("own")
    kept = [[str(number), *row] for number, row in enumerate(rows)]
    random.Random(seed).shuffle(kept)
    with open(folder / "a.csv", "w", newline="", encoding="utf-8") as file:
        csv.writer(file, delimiter=delimiter, lineterminator="\n").writerows([["id", "a", "b", "c"], *kept])
    form = "\\t" if delimiter == "\t" else delimiter
    cut(folder, f"save \"o.csv\" delimiter '{form}'")
    with open(folder / "o.csv", newline="", encoding="utf-8") as file:
        found = list(csv.reader(file, delimiter=delimiter))
    assert found[1:] == kept


def test_all_options_of_delimited_text(folder: Path) -> None:
    cut(
        folder,
        "save \"o.txt\" as csv delimiter ';' decimal ',' missing '-' quoting all line ends crlf quote '|' guard formulas",
    )
    text = (folder / "o.txt").read_bytes().decode()
    found = read(text, delimiter=";", quotechar="|")
    assert text.count("\r\n") == len(ROWS)
    assert [row[2] for row in found] == ["price", "1,5", "2", "-", "105", "7"]
    assert [row[1] for row in found] == ["species", "oak", "oak, red", 'a "b"\nc', "-", "'=1+2"]
    assert [row[3] for row in found][3:5] == ["2031-03-3", "-"]
    cut(folder, "columns n, flag", "save \"p.csv\" header no quoting texts missing 'NA'")
    assert (folder / "p.csv").read_text() == "5,TRUE\nNA,true\n+7,False\n 8,NA\n9,true\n"


def test_encodings(folder: Path) -> None:
    (folder / "e.csv").write_text("word\né\nü\n")
    for name in ("cp1252", "utf-16", "utf-8-sig", "latin-1"):
        cut(folder, f"save \"{name}.csv\" encoding '{name}'", source="e.csv")
        assert (folder / f"{name}.csv").read_bytes().decode(name) == "word\né\nü\n"
    (folder / "w.csv").write_text("word\n木\n")
    with pytest.raises(TargetError, match="cp1252 has no character '木'"):
        cut(folder, "save \"w2.csv\" encoding 'cp1252'", source="w.csv")
    assert not (folder / "w2.csv").exists()


OPENERS: dict[str, Callable[[bytes], bytes]] = {
    ".gz": gzip.decompress, ".bz2": bz2.decompress, ".xz": lzma.decompress,
    ".zst": lambda data: pa.CompressedInputStream(pa.BufferReader(data), "zstd").read(),
}  # fmt: skip


@pytest.mark.parametrize("ending", OPENERS)
def test_compressed_by_the_ending(folder: Path, ending: str) -> None:
    said = cut(folder, out=f"o.csv{ending}")
    assert OPENERS[ending]((folder / f"o.csv{ending}").read_bytes()).decode() == SOURCE
    assert "5 rows read back" in said[-1]
    cut(folder, "columns ticket, n", out=f"o.jsonl{ending}")
    lines = OPENERS[ending]((folder / f"o.jsonl{ending}").read_bytes()).decode().splitlines()
    assert [json.loads(line)["n"] for line in lines] == [5, None, 7, 8, 9]


def test_parquet_has_its_compression_and_row_groups(folder: Path) -> None:
    cut(folder, "save \"o.parquet\" compression 'snappy' row groups of 2")
    meta = parquet.read_metadata(folder / "o.parquet")
    assert [meta.row_group(place).num_rows for place in range(meta.num_row_groups)] == [2, 2, 1]
    assert meta.row_group(0).column(0).compression == "SNAPPY"


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("save \"o.parquet\" delimiter ';'", "parquet has no delimiter"), ("save \"o.csv\" compression 'zstd'", "csv has no compression"),
        ('save "o.parquet.gz"', "not compressed as a whole"), ("save \"o.parquet\" compression 'lzo'", "not compressed with"),
        ("save \"o.csv\" delimiter ';;'", "one character"), ("save \"o.csv\" header no header yes", "twice"),
        ("save \"o.csv\" delimiter ';' decimal ';'", "are the same"), ("save \"o.csv\" decimal ','", "are the same"),
        ("save \"o.csv\" encoding 'utf-99'", "no encoding"), ('save "o.csv" one file per 0 rows', "from 1"),
        ('save "o.csv" one file per nobody', "no column nobody"), ('save "o.csv" one file per n one file per 5 rows', "twice"),
        ("save \"o.xls\"", "does not say in which format"),
    ],
)  # fmt: skip
def test_what_makes_no_sense_is_said_and_nothing_is_written(folder: Path, line: str, said: str) -> None:
    with pytest.raises(YardcutError, match=said):
        cut(folder, line)
    assert [path.name for path in folder.iterdir()] == ["a.csv"]


@pytest.mark.parametrize(
    ("typed", "path", "rest"),
    [
        ("oak.csv", "oak.csv", ""), ("my oak.csv", "my oak.csv", ""), ("a.csv delimiter ';'", "a.csv", "delimiter ';'"),
        ("as we said.csv", "as we said.csv", ""), ("saved as csv header no", "saved", "header no"),
        ('"a header no.csv" header no', "a header no.csv", "header no"), ("in header no", "in", "header no"),
    ],
)  # fmt: skip
def test_a_path_and_words_behind_it(typed: str, path: str, rest: str) -> None:
    found = parse_save_words(typed)
    assert found.path == path
    assert found.options.text().strip() == rest
    assert not wrong_words(typed)


def test_words_that_are_nearly_options_are_said() -> None:
    assert "one character" in wrong_words("a.csv delimiter ';;'")
    with pytest.raises(ListError):
        parse_save_words('"a.csv" header perhaps')


def test_file_names_are_safe() -> None:
    for text in ("../../etc/passwd", "a\0b", "CON:", " . ", "x" * 300, "木" * 100, "{species}", "a\nb"):
        name = file_name_of(text)
        assert name
        assert not set(name) & set("/\\\0\n{}:")
        assert not name.startswith(".")
        assert len(name.encode()) <= 100


@pytest.mark.parametrize("delimiter", ["│", "§", "|", "\\t"])
def test_any_character_stands_between_cells(folder: Path, delimiter: str) -> None:
    cut(folder, f"save \"o.csv\" delimiter '{delimiter}'")
    mark = "\t" if delimiter == "\\t" else delimiter
    assert read((folder / "o.csv").read_text(), delimiter=mark) == ROWS


@pytest.mark.parametrize("quote", ["“", "«", "§"])
def test_a_quote_of_several_bytes_is_refused_beforehand(folder: Path, quote: str) -> None:
    with pytest.raises(ListError, match="quote takes a character of ASCII"):
        cut(folder, f"save \"o.csv\" quote '{quote}'")
    assert not (folder / "o.csv").exists()


@pytest.mark.parametrize(
    ("ends", "drops", "notes"),
    [
        ("\r\n", 0.05, ["", "a, b", "two\nlines", 'say "x"', "NA", "é"]),
        ("\n", 0.0, ["", "a, b", "NA", "x" * 3000]),
        ("\n", 0.0, ["", "é", "two\nlines"]),
        ("\n", 0.05, ["", "a"]),
    ],
)
def test_rows_here_and_there_are_found_again_by_the_blocks_they_stand_in(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, ends: str, drops: float, notes: list[str]
) -> None:
    """Many blocks, dropped rows and line feeds within cells or none: against what stands in the source."""
    from yardcut.core.sources.formats import delimited

    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 600)
    chance = random.Random(3)
    rows = []
    with open(tmp_path / "a.csv", "w", newline="") as file:
        writer = csv.writer(file, lineterminator=ends)
        writer.writerow(["n", "price", "note"])
        for number in range(400):
            if chance.random() < drops:
                file.write(chance.choice(["", ",,", "n,price,note", "1,2,3,4"]) + ends)
            note = chance.choice(notes)
            rows.append([str(number), f"{chance.randint(0, 99)}.{chance.randint(0, 9)}0", note])
            writer.writerow(rows[-1])
    reads: list[int] = []
    kept = delimited.DelimitedFile.body_blocks
    monkeypatch.setattr(delimited.DelimitedFile, "body_blocks", lambda self: reads.append(1) or kept(self))
    for lines, wanted in (
        (("keep n = 7 OR n = 222",), [7, 222]), (("keep n IN (399, 0)", "order n DESC"), [399, 0]),
        (("keep n % 3 = 0", "order n DESC"), range(399, -1, -3)), ((), range(400)),
        (("make m = n + 1", "keep n >= 395", "columns note, price, n"), range(395, 400)),
    ):  # fmt: skip
        reads.clear()
        cut(tmp_path, *lines, out="o.csv")
        with open(tmp_path / "o.csv", newline="") as file:
            found = list(csv.DictReader(file))
        assert [[row["n"], row["price"], row["note"]] for row in found] == [rows[number] for number in wanted]
        (tmp_path / "o.csv").unlink()
    assert not reads, "nothing was gone over from the beginning"


@settings(max_examples=examples(60), deadline=None)
@given(
    st.lists(
        st.floats(allow_nan=True, allow_infinity=True) | st.integers(-(10**6), 10**6).map(lambda n: n / 64),
        min_size=256,
        max_size=300,
    )
)
def test_many_numbers_are_written_as_one_by_one(numbers: list[float]) -> None:
    from yardcut.core.writers.texts.number_texts import number_texts

    for some in (numbers, [number if 1e-4 <= abs(number) < 1e10 else 0.5 for number in numbers]):
        vector = NumericVector(Kind.NUMBER, np.array(some))
        assert number_texts(vector) == vector.texts()


hostile = st.text(st.sampled_from('ab,;\t|"\n\r\x01\x02\x04 é\u6728'), max_size=5) | st.just(None)


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(hostile, hostile, st.none() | st.floats(allow_nan=False, allow_infinity=False) | st.sampled_from([0.1, -0.0, 1e10, 1e-5]),
                  st.none() | st.integers(-(2**60), 2**60), st.none() | st.booleans(),
                  st.none() | st.dates().map(str)),
        min_size=1, max_size=8,
    ),
    st.sampled_from([",", ";", "\\t", "|"]),
    st.booleans(),
)  # fmt: skip
def test_whole_blocks_are_written_as_cell_by_cell(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[object, ...]], delimiter: str, plain: bool
) -> None:
    from yardcut.core.sources.store import builders
    from yardcut.core.writers.texts import cell_texts as cells

    folder = tmp_path_factory.mktemp("blocks")
    with open(folder / "a.jsonl", "w", encoding="utf-8") as file:
        for row in (("x", "y", 1.5, 3, True, "2031-01-01"), *rows):
            names = ("text", "other", "real", "whole", "flag", "day")
            file.write(json.dumps(dict(zip(names, row, strict=True))) + "\n")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(builders, "MOST_WORDS", 0 if plain else 1 << 16)
        lines = ("make twice = whole * 2, half = real / 2", f"save \"{{}}.csv\" delimiter '{delimiter}'")
        cut(folder, lines[0], lines[1].format("quick"), source="a.jsonl")
        patch.setattr(cells.CellWriter, "blocks", lambda self: None)
        cut(folder, lines[0], lines[1].format("slow"), source="a.jsonl")
    assert (folder / "quick.csv").read_bytes() == (folder / "slow.csv").read_bytes()
