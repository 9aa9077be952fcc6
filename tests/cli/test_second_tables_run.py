"""Lists with second tables, run: what the report says of them, what is never written over, how a run ends."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut

LIST = """\
yardcut 1
source "packs.csv"
source "mills.csv" AS mills
  kind id integer

cut "c"
  keep ticket IN "asked.txt"
  bring name AS mill from mills by mill_id = id
  save "out.csv" with list
"""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "packs.csv").write_text("ticket,mill_id,price\n01,1,1.50\n02,2,2.00\n03,9,3\n")
    (tmp_path / "mills.csv").write_text("id,name\n1,Alder\n2,Birch\n")
    (tmp_path / "asked.txt").write_text("03\n01\n77\n")
    (tmp_path / "l.cut").write_text(LIST)
    return tmp_path


def test_a_run_reports_what_it_looked_up_and_is_strict_about_what_is_not_there(folder: Path) -> None:
    done = yardcut("run", "l.cut", "--report", "r.json", "--strict", cwd=folder)
    assert done.returncode == 3
    assert "asked for and not there: 77" in done.stderr
    assert '! line 1: 1 of 3 in "asked.txt" are not there' in done.stderr
    assert (
        folder / "out.csv"
    ).read_text() == "ticket,mill_id,price,mill\n01,1,1.50,Alder\n03,9,3,\n"  # cells as they came
    report = json.loads((folder / "r.json").read_text())
    asked, brought = (line["looked_up"][0] for line in report["lines"][:2])
    assert (asked["keys"], asked["not_there"], asked["not_there_first"]) == (3, 1, [["77"]])
    assert (brought["matched"], brought["unmatched"], brought["keys"]) == (1, 1, 2)
    assert [entry["name"] for entry in report["second_tables"]] == ['"asked.txt"', "mills"]
    assert all(entry["fingerprint"] and entry["files"] for entry in report["second_tables"])
    beside = (folder / "out.cut").read_text()
    assert '-- second table "asked.txt": 3 rows' in beside
    assert 'source "mills.csv" AS mills' in beside


def test_a_second_table_is_never_written_over(folder: Path) -> None:
    for target in ("mills.csv", "asked.txt"):
        before = (folder / target).read_bytes()
        done = yardcut("run", "l.cut", "--out", target, "--replace", cwd=folder)
        assert_sentence(done, 1)
        assert (folder / target).read_bytes() == before
    done = yardcut("cut", "packs.csv", "-l", 'bring name from "mills.csv" by mill_id = id', "--out", "mills.csv",
                   "--replace", cwd=folder)  # fmt: skip
    assert done.returncode == 1
    assert "second table" in done.stderr


@pytest.mark.parametrize(
    ("content", "said", "code"),
    [
        (None, "there is no file", 1),
        (b"", "", 0),
        (b"\0\1\2\3" * 50, "", None),
        (b"id,name\n", "", 0),
        (b"a,b\n1,2\n", "has no column id", 2),
        (b"id,name\n01,x\n", "", 0),
        (b"\xef\xbb\xbfid,name\n1,Alder\n", "", 0),
    ],
)
def test_a_second_table_that_is_none_ends_in_a_sentence(
    folder: Path, content: bytes | None, said: str, code: int | None
) -> None:
    path = folder / "mills.csv"
    path.unlink()
    if content is not None:
        path.write_bytes(content)
    done = yardcut("run", "l.cut", cwd=folder)
    assert said in done.stderr
    assert "Traceback" not in done.stderr
    if code is not None and said:
        assert done.returncode == code
    assert (folder / "out.csv").exists() is (done.returncode == 0)


def test_a_table_can_be_its_own_second_one_and_a_cut_cannot_be_its_own(folder: Path) -> None:
    line = 'bring price AS other from "packs.csv" by ticket'
    done = yardcut("cut", "packs.csv", "-l", line, "-l", "keep other = price", "--quiet", cwd=folder)
    assert len(done.stdout.splitlines()) == 4
    (folder / "l.cut").write_text('yardcut 1\nsource "packs.csv"\ncut "c"\n  keep ticket IN cut "c"\n')
    done = yardcut("check", "l.cut", cwd=folder)
    assert done.returncode == 2
    assert 'there is no earlier cut "c"' in done.stderr


def test_check_and_sql_bind_second_tables(folder: Path) -> None:
    assert yardcut("check", "l.cut", cwd=folder).returncode == 0
    done = yardcut("sql", "l.cut", "--for", "sqlite", cwd=folder)
    assert 'LEFT JOIN "mills"' in done.stdout
    assert "IN ('03', '01', '77')" in done.stdout
