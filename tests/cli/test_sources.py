"""Sources on the command line: stacks, sub-lines, pipes, and what they report."""

from __future__ import annotations

import csv
import gzip
import io
import json
import subprocess
import sys
from pathlib import Path

import pytest

from commands import yardcut


def call(folder: Path, *words: str, data: bytes | None = None) -> subprocess.CompletedProcess[bytes]:
    if data is None:
        done = yardcut(*words, cwd=folder)
        return subprocess.CompletedProcess(words, done.returncode, done.stdout.encode(), done.stderr.encode())
    return subprocess.run(
        [sys.executable, "-m", "yardcut", *words], cwd=folder, capture_output=True, input=data, check=False
    )


def table(done: subprocess.CompletedProcess[bytes]) -> list[list[str]]:
    assert done.returncode == 0, done.stderr
    return list(csv.reader(io.StringIO(done.stdout.decode(), newline="")))


def test_a_pipe_is_a_source(tmp_path: Path) -> None:
    done = call(tmp_path, "cut", "-", "-l", "keep n > 1", data=b"n,w\n1,a\n2,b\n3,c\n")
    assert table(done) == [["n", "w"], ["2", "b"], ["3", "c"]]
    packed = call(tmp_path, "cut", "-", "-l", "draw first 1", data=gzip.compress(b"n\n7\n"))
    assert table(packed) == [["n"], ["7"]]
    empty = call(tmp_path, "cut", "-", data=b"")
    assert (empty.returncode, b"nothing came from standard input" in empty.stderr) == (1, True)
    done = call(tmp_path, "gauge", "-", "--json", data=b"n\n1\n3\n")
    assert json.loads(done.stdout)[0]["average"] == "2"


def test_sub_lines_stand_among_the_lines(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("01.02.2031;J\n03.04.2031;N\n")
    done = call(
        tmp_path, "cut", "a.csv", "-l", "form header no", "-l", "call #1 day", "-l", "kind day date 'DD.MM.YYYY'",
        "-l", "kind #2 boolean 'J', 'N'", "-l", "keep column_2", "-l", "make month = EXTRACT(MONTH FROM day)",
    )  # fmt: skip
    assert done.stdout == b"day;column_2;month\n01.02.2031;J;2\n"
    assert b"written as its source is: semicolon between cells" in done.stderr
    wrong = call(tmp_path, "cut", "a.csv", "-l", "form delimiter ';;'")
    assert wrong.returncode == 2
    assert b"delimiter takes one character" in wrong.stderr


def test_a_stack_by_pattern_with_files_named(tmp_path: Path) -> None:
    (tmp_path / "y1.csv").write_text("n\n1\n")
    (tmp_path / "y2.csv").write_text("n\n2\n")
    (tmp_path / "y3.csv").write_bytes(b"\x00\x01binary")
    done = call(tmp_path, "cut", "y*.csv", "-l", "file column f")
    assert table(done) == [["n", "f"], ["1", "y1.csv"], ["2", "y2.csv"]]
    assert b"! left out y3.csv: " in done.stderr
    listed = tmp_path / "l.cut"
    listed.write_text('yardcut 1\nsource "y?.csv"\n  file column f\ncut "c"\n  keep n = 2\n')
    assert table(call(tmp_path, "run", "l.cut")) == [["n", "f"], ["2", "y2.csv"]]
    assert table(call(tmp_path, "run", "l.cut", "--source", "y1.csv"))[1:] == []
    assert call(tmp_path, "check", "l.cut").returncode == 0


def test_no_file_of_a_stack_is_written_to(tmp_path: Path) -> None:
    for name in ("a.csv", "b.csv"):
        (tmp_path / name).write_text("n\n1\n")
    done = call(tmp_path, "cut", "a.csv", "b.csv", "--out", "b.csv", "--replace")
    assert done.returncode == 1
    assert b"a source is never written to" in done.stderr
    assert (tmp_path / "b.csv").read_text() == "n\n1\n"


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        (
            "x.gz",
            gzip.compress(b"n\n" + b"".join(b"%d\n" % (n * n * 7919) for n in range(9000)))[:-9000],
            "is not a whole gz file",
        ),
        ("x.parquet", b"PAR1 nothing", "is not a whole Parquet file"),
        ("x.arrow", b"ARROW1\0\0 nothing", "is not a whole Arrow file"),
        ("x.xlsx", b"PK\x03\x04 nothing", "is no workbook that can be read"),
        ("x.db", b"SQLite format 3\0" + b"nothing", "is no whole SQLite database"),
        ("x.json", b'[{"a": 1', "the array breaks off"),
        ("x.csv", b'n,w\n1,"never\n', "a quote opens here and never closes"),
        ("x.csv", b"\n\n\n", "holds only blank lines"),
    ],
)
def test_damaged_sources_get_a_sentence_and_leave_nothing(tmp_path: Path, name: str, content: bytes, says: str) -> None:
    (tmp_path / name).write_bytes(content)
    done = call(tmp_path, "cut", name, "--out", "out.csv")
    assert (done.returncode, says in done.stderr.decode()) == (1, True), done.stderr
    assert b"Traceback" not in done.stderr
    assert done.stderr.count(b"\n") == 1
    assert not (tmp_path / "out.csv").exists()


def test_the_gauge_takes_sub_lines_and_knows_every_format(tmp_path: Path) -> None:
    (tmp_path / "r.jsonl").write_text('{"a": 1, "b": {"c": "x"}}\n{"a": 3}\n')
    found = {entry["name"]: entry for entry in json.loads(call(tmp_path, "gauge", "r.jsonl", "--json").stdout)}
    assert (found["a"]["total"], found["b.c"]["present"]) == ("4", 1)
    found = json.loads(call(tmp_path, "gauge", "r.jsonl", "--json", "-l", "kind a text").stdout)
    assert found[0]["kind"] == "text"


def test_what_a_source_lost_or_a_line_missed_is_said(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,w\n" + "1,a\n" * 2000 + "odd,b\n1,2,3\n\n")
    said = call(
        tmp_path, "cut", "a.csv", "-l", "kind nosuch date", "-l", "no value '-' in gone", "-l", "call none x",
        "-l", "draw first 1",
    )  # fmt: skip
    assert table(said) == [["n", "w"], ["1", "a"]]
    for sentence in (
        "the kind line is about nosuch, which no column is called",
        "the no value line is about gone,",
        "the call line is about none,",
        "a.csv: dropped 1 row with too many cells, 1 blank row",
        "n: 1 set aside, which are no integer",
    ):
        assert sentence in said.stderr.decode(), sentence


def test_every_command_says_how_stacked_files_differ_the_most_harmful_first(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,wood,w\n" + "1,oak,2\n" * 30)
    (tmp_path / "b.csv").write_text("n,species,w,size\n" + "1,oak,wet,7\n" * 30)
    (tmp_path / "c.csv").write_text("n,species,w\n" + "1,oak,dry\n" * 30)
    (tmp_path / "d.csv").write_bytes(b"\x89PNG\r\n\x1a\n\0\0")
    (tmp_path / "l.cut").write_text('yardcut 1\nsource "?.csv"\ncut "c"\n  order size\n')
    for words in (["cut", "?.csv"], ["run", "l.cut"], ["check", "l.cut"], ["gauge", "?.csv"]):
        said = call(tmp_path, *words).stderr.decode().splitlines()
        met = [line for line in said if line.startswith("! ")]
        assert met[0].startswith("! left out d.csv: ")
        assert met[1] == "! a.csv: w looks like integer here, wood may be species under another name, has no size"
        assert {"! c.csv: has no wood, has no size"} < set(met)
    done = call(tmp_path, "run", "l.cut", "--report", "r.json", "--strict")
    assert done.returncode == 3
    assert "a.csv has no size: it has no value in all the rows of that file" in done.stderr.decode()
    assert done.stderr.decode().splitlines()[-1].startswith("! left out d.csv: ")
    report = json.loads((tmp_path / "r.json").read_text())
    assert [(file["file"], file["rows"], file["missing_columns"]) for file in report["files"]] == [
        ("a.csv", 30, ["species", "size"]), ("b.csv", 30, ["wood"]), ("c.csv", 30, ["wood", "size"]),
    ]  # fmt: skip
    assert report["files"][0]["size_bytes"] == (tmp_path / "a.csv").stat().st_size
    assert report["files"][0]["form"]["delimiter"] == ","
    assert report["left_out"][0].startswith("left out d.csv")


def test_a_cut_that_leaves_nothing_says_which_line_took_the_rest(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,w\n1,a\n2,b\n")
    words = ("cut", "a.csv", "-l", "keep n > 1", "-l", "drop w = 'b'", "-l", "order n")
    done = call(tmp_path, *words)
    assert (done.returncode, done.stdout) == (0, b"n,w\n")
    assert b"! nothing is left: line 2 took the last row: drop w = 'b'" in done.stderr
    assert call(tmp_path, *words, "--strict").returncode == 3
    assert call(tmp_path, *words[:4], "--strict").returncode == 0
    (tmp_path / "l.cut").write_text('yardcut 1\nsource "a.csv"\ncut "c"\n  keep n > 7\n')
    assert (call(tmp_path, "run", "l.cut").returncode, call(tmp_path, "run", "l.cut", "--strict").returncode) == (0, 3)


def test_what_may_have_been_lost_is_said_with_the_line_that_keeps_it(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n;region;p\n" + "1;NA;1,234\n2;EU;5,678\n" * 20)
    said = call(tmp_path, "gauge", "a.csv").stderr.decode()
    assert "to keep it as a code: no value '' in region" in said
    assert "say form decimal ',' or form thousands ','" in said
    quiet = call(tmp_path, "gauge", "a.csv", "-l", "no value '' in region", "-l", "form decimal ','")
    assert quiet.stderr == b""
