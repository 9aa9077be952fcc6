"""Running a list again: dials, a file for each value, several cuts in one file, the list beside, what is different."""

from __future__ import annotations

import csv
import json
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import openpyxl
import pytest

from commands import assert_sentence, yardcut
from thoroughness import IS_LONG, some
from yardcut.cli.manual import shared_files

LIST = """\
yardcut 1
source "a.csv"

dial bay = 'A'
dial best = 1 from 1 to 4

cut "top"
  keep bay = :bay
  draw top :best by price per species
  save "top-{bay}.csv" with list

cut "all"
  keep price > 5
  save "w.xlsx"

cut "oak"
  keep species = 'oak'
  save "w.xlsx" table 'the oak'
"""
SOURCE = "ticket,species,bay,price\n1,oak,A,5.50\n2,oak,B,6\n3,larch,A,7\n4,ash,,8\n5,oak,A,9\n"


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(SOURCE)
    (tmp_path / "l.cut").write_text(LIST)
    return tmp_path


def run(place: Path, *words: str) -> subprocess.CompletedProcess[str]:
    return yardcut("run", *words, cwd=place, XDG_STATE_HOME=str(place / "state"))


def rows(path: Path) -> list[list[str]]:
    with open(path, newline="", encoding="utf-8") as file:
        return list(csv.reader(file))


def test_dials_several_cuts_in_one_workbook_and_the_list_beside(place: Path) -> None:
    done = run(place, "l.cut")
    assert done.returncode == 0, done.stderr
    assert [row[0] for row in rows(place / "top-A.csv")] == ["ticket", "5", "3"]
    book = openpyxl.load_workbook(place / "w.xlsx")
    assert {sheet.title: [row[0].value for row in sheet.iter_rows(min_row=2)] for sheet in book} == {
        "all": [1, 2, 3, 4, 5], "the oak": [1, 2, 5],
    }  # fmt: skip
    assert "2 worksheets: all 5, the oak 3" in done.stderr
    beside = (place / "top-A.cut").read_text()
    assert "-- source a.csv: 79 bytes, 5 rows" in beside
    assert "--   2: 3 -> 2   draw top :best by price per species" in beside
    again = run(place, "top-A.cut", "--cut", "top", "--out", "again.csv")
    assert again.returncode == 0, again.stderr
    assert (place / "again.csv").read_bytes() == (place / "top-A.csv").read_bytes()


def test_the_list_beside_has_the_seed_that_was_used(place: Path) -> None:
    (place / "r.cut").write_text(
        'yardcut 1\nsource "a.csv"\ncut "r"\n  draw random 2  -- some\n  save "out/r.csv.gz" with list\n'
    )
    (place / "out").mkdir()
    assert run(place, "r.cut", "--report", "r.json").returncode == 0
    seed = json.loads((place / "r.json").read_text())["seed"]
    beside = (place / "out" / "r.cut").read_text()
    assert f"draw random 2 seed {seed}" in beside
    assert 'source "../a.csv"' in beside
    before = (place / "out" / "r.csv.gz").read_bytes()
    shutil.rmtree(place / "state")
    assert run(place, "out/r.cut", "--replace", "--out", "out/r.csv.gz").returncode == 0
    assert (place / "out" / "r.csv.gz").read_bytes() == before


def test_a_file_for_each_value_of_a_dial(place: Path) -> None:
    done = run(place, "l.cut", "--cut", "top", "--each", "bay", "--set", "best=2", "--report", "r.json")
    assert done.returncode == 0, done.stderr
    assert [row[0] for row in rows(place / "top-A.csv")[1:]] == ["5", "1", "3"]
    assert [row[0] for row in rows(place / "top-B.csv")[1:]] == ["2"]
    assert json.loads((place / "r-B.json").read_text())["dials"] == {"bay": "'B'", "best": "2"}
    assert sorted(path.name for path in place.glob("top-*.csv")) == ["top-A.csv", "top-B.csv"]
    out = run(place, "l.cut", "--cut", "oak", "--each", "best", "--out", "o.csv")
    assert_sentence(out, 2, "the dial best")


def test_an_empty_dial_leaves_its_piece_out(place: Path) -> None:
    done = run(place, "l.cut", "--cut", "top", "--set", "bay=", "--set", "best=")
    assert done.returncode == 0, done.stderr
    assert len(rows(place / "top-all.csv")) == 6
    assert "keep bay = :bay  5 → 5" in done.stderr


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--set", "nobody=1"), "the list has no dial nobody; it has bay, best"), (("--set", "best=many"), "holds numbers"),
        (("--set", "best"), "DIAL=VALUE"), (("--each", "nobody"), "no dial nobody"), (("--out", "x.csv"), "--cut"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_dials_is_said(place: Path, words: tuple[str, ...], said: str) -> None:
    assert_sentence(run(place, "l.cut", *words), 2, said)


def test_several_cuts_in_one_database_and_never_in_one_csv(place: Path) -> None:
    (place / "s.cut").write_text(LIST.replace("w.xlsx", "w.sqlite"))
    assert run(place, "s.cut", "--set", "bay=B").returncode == 0
    with closing(sqlite3.connect(place / "w.sqlite")) as database:
        assert database.execute('select count(*) from "all"').fetchone() == (5,)
        assert database.execute('select count(*) from "the oak"').fetchone() == (3,)
    (place / "t.cut").write_text(LIST.replace("w.xlsx\" table 'the oak'", 'w.csv"').replace("w.xlsx", "w.csv"))
    assert_sentence(run(place, "t.cut", "--set", "bay=C"), 1, "several save lines write", "w.csv")
    assert not (place / "w.csv").exists()


def test_what_is_different_from_the_last_run(place: Path) -> None:
    (place / "d.cut").write_text(
        'yardcut 1\nsource "a.csv"\ncut "d"\n  keep price > 5.5\n  drop species = \'ash\'\n  draw first 1 per bay\n'
    )
    assert run(place, "d.cut", "--report", "first.json").returncode == 0
    assert run(place, "d.cut", "--strict").returncode == 0
    (place / "a.csv").write_text("ticket,species,bay,price,more\n1,oak,A,5.60,x\n2,oak,A,6,x\n3,larch,A,7,x\n")
    done = run(place, "d.cut", "--strict", "--quiet")
    assert done.returncode == 3
    assert "the column more is new" in done.stderr
    assert "line 1 (keep price > 5.5) takes no row now; last time it took 1 of 5" in done.stderr
    assert "line 2 (drop species = 'ash') takes no row now" in done.stderr
    assert "no row any more of B" in done.stderr
    assert "→" not in done.stderr
    assert run(place, "d.cut", "--strict").returncode == 0, "it is the last run's by now"
    assert run(place, "d.cut", "--strict", "--against", "first.json").returncode == 3
    (place / "first.json").write_text("{}")
    assert_sentence(run(place, "d.cut", "--against", "first.json"), 1, "not a report")


def test_the_list_as_sql(place: Path) -> None:
    done = yardcut("sql", "l.cut", "--cut", "top", "--for", "sqlite", "--table", "packs", "--set", "best=2", cwd=place)
    assert done.returncode == 0, done.stderr
    with closing(sqlite3.connect(":memory:")) as database:
        database.execute("create table packs (ticket integer, species text, bay text, price real)")
        database.executemany("insert into packs values (?, ?, nullif(?, ''), ?)", rows(place / "a.csv")[1:])
        assert sorted(row[0] for row in database.execute(done.stdout)) == [1, 3, 5]
    assert_sentence(yardcut("sql", "l.cut", cwd=place), 2, "--cut", "top, all, oak")


def complete(place: Path, *words: str) -> list[str]:
    environment = {**os.environ, "COMP_WORDS": " ".join(words), "COMP_CWORD": str(len(words) - 1),
                   "_YARDCUT_COMPLETE": "bash_complete"}  # fmt: skip
    program = "import sys; sys.argv[0] = 'yardcut'; from yardcut.cli.main import main; main()"
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=place, env=environment, capture_output=True, text=True, check=False
    )
    return [line.partition(",")[2] for line in done.stdout.splitlines()]


@pytest.mark.long
def test_a_shell_completes_commands_files_cuts_and_dials(place: Path) -> None:
    assert {"run", "cut", "sql", "a.csv", "l.cut"} <= set(complete(place, "yardcut", ""))
    assert complete(place, "yardcut", "ru") == ["run"]
    assert complete(place, "yardcut", "run", "l.cut", "--set", "b") == ["bay=", "best="]
    assert complete(place, "yardcut", "run", "l.cut", "--cut", "o") == ["oak"]


def test_the_manual_page_and_the_completions_are_those_of_the_commands() -> None:
    share = Path(__file__).parents[2] / "share"
    for path, text in shared_files().items():
        assert (share / path).read_text(encoding="utf-8") == text, f"python -m yardcut.cli.manual share makes {path}"


@pytest.mark.parametrize("name", some(["k.csv", "k.parquet", "k.jsonl", "k.sqlite"], 1))
def test_killed_at_any_moment_a_save_leaves_the_old_file_or_the_new_one(place: Path, name: str) -> None:
    """The file is whole at every moment, and what a killed process left is swept by the next one."""
    (place / "big.csv").write_text("n,price\n" + "".join(f"{n},{n}.50\n" for n in range(60_000)))
    (place / "k.cut").write_text(f'yardcut 1\nsource "big.csv"\ncut "k"\n  order price DESC\n  save "{name}" replace\n')
    assert run(place, "k.cut").returncode == 0
    began = time.monotonic()
    assert run(place, "k.cut", "--replace").returncode == 0
    seconds = time.monotonic() - began
    whole, old = (place / name).read_bytes(), b"what stood there before"
    command = [sys.executable, "-m", "yardcut", "run", "k.cut", "--replace"]
    chance = random.Random(name)
    for _ in range(50 if IS_LONG else 10):
        (place / name).write_bytes(old)
        process = subprocess.Popen(command, cwd=place, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(0.3, 1.1) * seconds)
        process.send_signal(signal.SIGKILL)
        process.wait()
        assert (place / name).read_bytes() in (old, whole)
    assert run(place, "k.cut", "--replace").returncode == 0
    assert (place / name).read_bytes() == whole
    left = {path.name for path in place.iterdir()}
    assert left == {"a.csv", "l.cut", "state", "big.csv", "k.cut", name}


@pytest.mark.long
@pytest.mark.few(2)
@pytest.mark.skipif(
    os.geteuid() != 0 or shutil.which("mount") is None, reason="only the superuser can make a small disk"
)
@pytest.mark.parametrize("name", ["o.csv", "o.parquet", "o.jsonl", "o.xlsx", "o.sqlite", "o.csv.gz"])
def test_a_disk_that_fills_in_the_middle_leaves_nothing(place: Path, name: str) -> None:
    (place / "big.csv").write_text(
        "n,word\n" + "".join(f"{n},{n * 7919 % 1000003} {n * 104729 % 999983}\n" for n in range(60_000))
    )
    small = place / "small"
    small.mkdir()
    if subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=300k", "tmpfs", small], check=False, capture_output=True
    ).returncode:
        pytest.skip("no disk can be mounted here")
    try:
        done = yardcut("cut", "big.csv", "-l", "order n DESC", "--out", small / name, cwd=place)
        assert_sentence(done, 1, "full")
        assert list(small.iterdir()) == []
    finally:
        subprocess.run(["umount", small], check=False)
