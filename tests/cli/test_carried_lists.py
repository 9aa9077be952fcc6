"""A slice remembers the list that cut it, and is cut again by it: in every format with a place for it."""

from __future__ import annotations

import random
import sqlite3
from contextlib import closing
from pathlib import Path

import openpyxl
import pyarrow as pa
import pytest
from pyarrow import parquet

from commands import assert_sentence, yardcut, yardcut_process
from yardcut.core.formats import CARRIED, FORMATS

CARRYING = [form.endings[0] for form in FORMATS.values() if form.carried]


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    chance = random.Random(4)
    rows = [f"{n},{chance.choice(['oak', 'ash', ''])},{chance.randint(1, 90) / 4}" for n in range(400)]
    (tmp_path / "packs.csv").write_text("\n".join(["id,species,price", *rows, ""]))
    return tmp_path


def seen_by_others(path: Path) -> str:
    """What another reader of the format finds at the list's place."""
    match path.suffix:
        case ".parquet":
            return str(parquet.read_schema(path).metadata[CARRIED.encode()].decode())
        case ".arrow":
            return str(pa.ipc.open_file(path).schema.metadata[CARRIED.encode()].decode())
        case ".xlsx":
            return str(openpyxl.load_workbook(path).properties.description)
    with closing(sqlite3.connect(path)) as database:
        return str(database.execute(f"SELECT list FROM {CARRIED}").fetchone()[0])


@pytest.mark.few(2)
@pytest.mark.parametrize("ending", CARRYING)
def test_it_is_cut_again(yard: Path, ending: str) -> None:
    out = f"o{ending}"
    lines = [
        "-l",
        "keep species <> 'ash'",
        "-l",
        "draw random 30",
        "-l",
        "order price DESC, id",
        "-l",
        "make half = price / 2",
    ]
    assert yardcut("cut", "packs.csv", *lines, "--out", out, cwd=yard).returncode == 0
    shown = yardcut("show", out, cwd=yard)
    assert shown.stdout == seen_by_others(yard / out)
    assert "draw random 30 seed " in shown.stdout
    (yard / "shown.cut").write_text(shown.stdout)
    assert yardcut("run", "shown.cut", "--out", "by list.csv", cwd=yard).returncode == 0
    again = yardcut("run", out, "--out", "again.csv", cwd=yard)
    assert again.returncode == 0, again.stderr
    assert (yard / "again.csv").read_text() == (yard / "by list.csv").read_text()
    assert len((yard / "again.csv").read_text().splitlines()) == 31
    plain = yardcut("cut", out, "-l", "columns id", "--out", "ids.csv", cwd=yard)
    assert plain.returncode == 0
    ids = [line.split(",")[0] for line in (yard / "again.csv").read_text().splitlines()]
    assert (yard / "ids.csv").read_text().split() == ids


@pytest.mark.parametrize("ending", CARRYING)
def test_its_save_lines_do_not_run_and_it_writes_where_it_is_told(yard: Path, ending: str) -> None:
    (yard / "lists").mkdir()
    (yard / "lists" / "l.cut").write_text(
        f'yardcut 1\nsource "../packs.csv"\ndial most = 5\n\ncut "few"\n  keep price < :most\n  save "../o{ending}"\n'
    )
    assert yardcut("run", "lists/l.cut", "--set", "most=7", cwd=yard).returncode == 0
    before = {path.name for path in yard.iterdir()}
    assert_sentence(yardcut("run", f"o{ending}", cwd=yard), 2, "is a slice", "--out")
    assert {path.name for path in yard.iterdir()} == before
    found = yardcut("run", f"o{ending}", "--set", "most=2", "--out", "less.csv", cwd=yard)
    assert found.returncode == 0, found.stderr
    assert {path.name for path in yard.iterdir()} == before | {"less.csv"}
    prices = [float(line.split(",")[2]) for line in (yard / "less.csv").read_text().splitlines()[1:]]
    assert prices
    assert max(prices) < 2
    assert_sentence(yardcut("run", f"o{ending}", "--out", f"o{ending}", cwd=yard), 1, "name another file")


def test_several_cuts_in_one_file_are_remembered_once(yard: Path) -> None:
    (yard / "l.cut").write_text(
        'yardcut 1\nsource "packs.csv"\n\ncut "oak"\n  keep species = \'oak\'\n  save "w.xlsx"\n\ncut "ash"\n  keep species = \'ash\'\n  save "w.xlsx"\n'
    )
    assert yardcut("run", "l.cut", cwd=yard).returncode == 0
    shown = yardcut("show", "w.xlsx", cwd=yard).stdout
    assert 'cut "oak"' in shown
    assert 'cut "ash"' in shown
    assert yardcut("run", "w.xlsx", "--cut", "ash", "--out", "ash.csv", cwd=yard).returncode == 0


@pytest.mark.parametrize(
    ("name", "says"),
    [("packs.csv", "remembers no list"), ("none.parquet", "cannot be read"), ("torn.parquet", "no whole parquet file"), ("torn.sqlite", "no whole sqlite file"),
     ("torn.xlsx", "no whole xlsx file"), ("bare.parquet", "remembers no list")],
)  # fmt: skip
def test_what_remembers_nothing_says_so(yard: Path, name: str, says: str) -> None:
    (yard / "torn.parquet").write_bytes(b"PAR1 and no more")
    (yard / "torn.sqlite").write_bytes(b"SQLite format 3\x00 and no more")
    (yard / "torn.xlsx").write_bytes(b"PK\x03\x04 and no more")
    parquet.write_table(pa.table({"a": [1]}), yard / "bare.parquet")
    assert_sentence(yardcut("show", name, cwd=yard), 1, says)


def test_a_slice_of_a_slice_remembers_its_own_list(yard: Path) -> None:
    assert yardcut("cut", "packs.csv", "-l", "keep id < 50", "--out", "a.parquet", cwd=yard).returncode == 0
    assert yardcut("cut", "a.parquet", "-l", "keep id < 5", "--out", "b.parquet", cwd=yard).returncode == 0
    shown = yardcut("show", "b.parquet", cwd=yard).stdout
    assert 'source "a.parquet"' in shown
    assert "id < 50" not in shown


@pytest.mark.long
def test_what_came_through_a_pipe_has_no_path_of_ours(yard: Path) -> None:
    text = (yard / "packs.csv").read_text()
    done = yardcut_process("cut", "-", "-l", "keep id < 5", "--out", "o.parquet", cwd=yard, given=text)
    assert done.returncode == 0, done.stderr
    shown = yardcut("show", "o.parquet", cwd=yard).stdout
    assert 'source "standard input"' in shown
    assert "piped-" not in shown
    assert_sentence(yardcut("run", "o.parquet", "--out", "p.csv", cwd=yard), 1, "there is no file")
    assert yardcut("run", "o.parquet", "--source", "packs.csv", "--out", "p.csv", cwd=yard).returncode == 0
    assert len((yard / "p.csv").read_text().splitlines()) == 6
