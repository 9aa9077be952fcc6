"""Opening what people really get, and changing how it is read, as a new user would."""

from __future__ import annotations

import csv
import gzip
import json
import shutil
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

from helpers import damage, take_grammars

Start = Callable


@pytest.mark.long
def test_three_years_are_stacked_looked_at_and_put_right(start: Start, tmp_path: Path, yard: Path) -> None:
    """The stack, its source card, a column called alike, a file column, dropped rows saved, the list run again."""
    for year in (2029, 2030):
        shutil.copy(yard / f"yard_{year}.csv", tmp_path)
    app = start("../yard_20*.csv")
    app.until("20,750 rows × 72 columns", "no lines yet")
    app.keys("i")
    app.until(
        "semicolon between cells, decimal comma",
        "size_class may be nominal_size under another name",
        "1 repeated header, 120 blank rows",
    )
    app.until("heavy ×1", "line 3,497")
    app.keys("s")
    app.until("save what was left out ▸", "writes 121 dropped rows and")
    app.keys("Enter")
    app.until("wrote yard_20-left-out.csv: 121 dropped rows and")
    with open(tmp_path / "terminal-0" / "yard_20-left-out.csv", newline="") as file:
        dropped = list(csv.DictReader(file))
    assert (dropped[0]["reason"], dropped[0]["line"]) == ("repeated header", "3497")
    app.keys("w")
    app.until("cut ▸")
    app.type('call size_class nominal_size in "yard_2031.csv"')
    app.until("changes how the source is read")
    app.keys("Enter")
    app.until("read again: 20,750 rows · gone: size_class", "20,750 rows × 71 columns")
    app.keys("w")
    app.until("cut ▸")
    app.type("file column from_file")
    app.until("changes how the source is read")
    app.keys("Enter")
    app.until("new: from_file", "× 72 columns")
    app.line("keep from_file = 'yard_2029.csv' AND nominal_size = '27 x 150'", "would leave")
    app.keys("u", "u")
    app.until("gone: from_file", "× 71 columns")
    app.keys("U", "U")
    app.until("1 keep", "× 72 columns")
    app.keys("F4")
    app.until("save list ▸")
    app.keys("C-u")
    app.type("years.cut")
    app.until("writes 1 line")
    app.keys("Enter")
    app.until("saved the list to years.cut")
    text = (tmp_path / "terminal-0" / "years.cut").read_text()
    assert 'call size_class nominal_size in "yard_2031.csv"' in text
    assert "file column from_file" in text
    again = start("../terminal-0/years.cut")
    again.until("1 keep", "× 72 columns")


@pytest.mark.long
def test_the_guess_is_changed_and_the_first_rows_show_it_at_once(start: Start, tmp_path: Path) -> None:
    (tmp_path / "odd.csv").write_text("day;n;who\n" + "".join(f"0{d}.0{d}.2031;{d};x{d}\n" for d in range(1, 10)))
    app = start("../odd.csv", columns=110, rows=34)
    app.until("9 rows × 3 columns", "no lines yet")
    app.keys("i")
    app.until("semicolon between cells", "kind day date 'MM.DD.YYYY'")
    app.keys("Enter")
    app.until("cut ▸ kind day date 'DD.MM.YYYY'")
    app.keys("C-u")
    app.type("form header no")
    app.until("column_1", "changes how the source is read")
    app.keys("C-u")
    app.type("kind day date 'DD.MM.YYYY'")
    app.until("day: all 9 values fit date")
    app.keys("C-u")
    app.type("kind who integer")
    app.until("who: 9 of 9 values do not fit integer")
    app.keys("C-u")
    app.type("kind day date 'MM.DD'")
    app.until("needs a year")
    app.keys("C-u")
    app.type("kind day date 'DD.MM.YYYY'")
    app.until("all 9 values fit date")
    app.keys("Enter")
    app.until("day is date now", "2031-09-09")
    app.line("keep day >= DATE '2031-05-01'", "would leave 5 of 9")
    app.keys("u", "u")
    app.until("day is text now", "09.09.2031")


@pytest.mark.long
def test_a_file_that_changes_is_noticed_and_read_again(start: Start, tmp_path: Path) -> None:
    path = tmp_path / "growing.csv"
    path.write_text("n,w\n" + "".join(f"{n},a\n" for n in range(20)))
    app = start("../growing.csv")
    app.until("20 rows × 2 columns", "no lines yet")
    app.line("keep n >= 10", "would leave 10 of 20")
    time.sleep(0.1)
    with open(path, "a") as file:
        file.write("".join(f"{n},b\n" for n in range(20, 25)))
    app.until("growing.csv has grown by 25 bytes since it was read", "R reads it again")
    app.keys("R")
    app.until("read again: 25 rows, 5 more", "25 rows × 2 columns", "15")
    path.unlink()
    app.until("growing.csv is gone")
    app.keys("R")
    app.until("not read again", "there is no file")
    app.until("25 rows × 2 columns")


@pytest.mark.long  # tests/tui/test_rack.py has it on every change
def test_the_profile_of_every_column_and_going_to_one(start: Start) -> None:
    app = start()
    app.until("7,650 rows × 71 columns", "no lines yet")
    app.keys("p")
    app.until("all columns, the source", "3 quarters", "inspector")
    app.until("ALL BAYS 250")
    app.keys("Down", "Down", "Enter")
    app.until("all columns", gone=True)
    app.until("origin  text 3")


@pytest.mark.long  # tests/core/sources/test_formats.py reads them on every change
def test_other_formats_open_in_the_app(start: Start, tmp_path: Path) -> None:
    (tmp_path / "packed.csv.gz").write_bytes(gzip.compress(b"a,b\n1,x\n2,y\n"))
    start("../packed.csv.gz").until("2 rows × 2 columns", "no lines yet")
    (tmp_path / "records.json").write_text(json.dumps([{"a": 1, "b": {"c": "deep"}}, {"a": 2}]))
    start("../records.json").until("2 rows × 2 columns", "b.c", "deep")
    piped = start("-", pipe="printf 'a,b\\n7,z\\n8,z\\n' |")
    piped.until("2 rows × 2 columns", "no lines yet")
    piped.line("keep a = 8", "would leave 1 of 2")
    piped.keys("C-q")
    piped.until("not saved")
    piped.keys("y")
    assert piped.status() == 0


def test_reading_is_stopped_and_the_part_is_kept(start: Start, tmp_path: Path) -> None:
    some = "".join(f"{n},w{n % 977},{n / 2}\n" for n in range(1000))
    (tmp_path / "long.csv").write_text("n,word,half\n" + some * 8000)
    app = start("../long.csv")
    app.until("reading")
    app.keys("C-g")
    app.until("only a part was read: the first")
    app.line("keep n < 10", "would leave")


@pytest.mark.long
def test_a_table_of_a_database_is_chosen(start: Start, tmp_path: Path) -> None:
    with closing(sqlite3.connect(tmp_path / "yard.db")) as connection, connection as file:
        file.execute("CREATE TABLE packs (ticket TEXT, boards INTEGER)")
        file.executemany("INSERT INTO packs VALUES (?, ?)", [("00001-31", 12), ("00002-31", 30)])
        file.execute("CREATE TABLE mills (id TEXT)")
    app = start("../yard.db")
    app.until("yard.db holds 2 tables", "packs", "2 columns, 2 rows")
    app.keys("Down", "Enter")
    app.until("2 rows × 2 columns", "00001-31")
    app.line("keep boards > 20", "would leave 1 of 2")
    asked = start("../yard.db")
    asked.until("holds 2 tables")
    asked.keys("Tab")
    asked.type("select count(*) AS n from packs")
    asked.keys("Enter")
    asked.until("1 row × 1 column")
    said = start("../yard.db", "-l", "table 'mills'")
    said.until("0 rows × 1 column")


@pytest.mark.long  # tests/tui/test_few_rows_of_many.py has it on every change
def test_a_parquet_file_is_there_at_once_and_read_column_by_column(start: Start, tmp_path: Path) -> None:
    import pyarrow as pa
    from pyarrow import parquet

    rows = 300_000
    content = {f"c{place}": [f"{place}-{row % 7}" for row in range(rows)] for place in range(3)}
    parquet.write_table(
        pa.table({"boards": list(range(rows)), **content}), tmp_path / "p.parquet", row_group_size=50_000
    )
    take_grammars(tmp_path / "own")
    app = start("../p.parquet", XDG_CACHE_HOME=str(tmp_path / "own"))
    app.until("300,000 rows × 4 columns", "0-0", "300,000 values · 0 missing")
    app.line("keep boards < 1000 AND c2 = '2-3'", "would leave 143 of 300,000")
    app.until("1 keep", "143")
    app.keys("C-s")
    app.until("save slice ▸")
    app.keys("C-u")
    app.type("slice.csv")
    app.keys("Enter")
    app.until("wrote slice.csv", "143 rows")
    with open(tmp_path / "terminal-0" / "slice.csv", newline="") as file:
        assert [int(row["boards"]) for row in csv.DictReader(file)] == list(range(3, 1000, 7))


@pytest.mark.long  # tests/core/sources/test_cache.py has it on every change
def test_a_damaged_cache_is_noticed_and_put_right_while_one_works(start: Start, tmp_path: Path) -> None:
    (tmp_path / "n.csv").write_text("n,m\n" + "".join(f"{row},{row % 10}\n" for row in range(500_000)))
    own = {"XDG_CACHE_HOME": str(tmp_path / "own")}
    take_grammars(tmp_path / "own")
    first = start("../n.csv", **own)
    first.until("500,000 rows × 2 columns")
    first.keys("C-q")
    assert first.status() == 0
    damage(next((tmp_path / "own").glob("yardcut/stores/*/manifest.json")).parent, 0, "values", -9)
    app = start("../n.csv", **own)
    app.until("500,000 rows × 2 columns")
    app.until("read again: 500,000 rows")
    app.line("keep n > 499990", "would leave 9 of 500,000")
    app.until("499,999")


@pytest.mark.long  # tests/tui/test_few_rows_of_many.py has it on every change
def test_rows_far_apart_of_a_parquet_file_appear_when_their_columns_are_read(start: Start, tmp_path: Path) -> None:
    import pyarrow as pa
    from pyarrow import parquet

    rows = 400_000
    content = {"n": list(range(rows)), "text": [f"text {row}" for row in range(rows)]}
    parquet.write_table(pa.table(content), tmp_path / "far.parquet", row_group_size=20_000)
    take_grammars(tmp_path / "own")
    app = start("../far.parquet", XDG_CACHE_HOME=str(tmp_path / "own"))
    app.until("400,000 rows × 2 columns", "text 0")
    app.line("keep n % 19999 = 7", "would leave 21 of 400,000")
    app.until("text 399987", "text 20006")
    assert "…" not in app.screen().split("text 20006")[1].splitlines()[0]


@pytest.mark.long
def test_a_report_made_by_hand_is_a_table_and_says_what_it_left_out(start: Start, tmp_path: Path) -> None:
    """Titles, a total and notes are told at once, listed on the card, and taken back by a line; a doubt is settled."""
    rows = "".join(f"T-{n:03};{['NA', 'EU', 'AS'][n % 3]};€ {n},50;{n % 24:02}:30\n" for n in range(400))
    text = "Yard report 2031\nmade by hand; on Monday\n\nticket;region;price;seen\n" + rows + "\nTotal;;€ 80000,00;\n"
    (tmp_path / "report.csv").write_text(text)
    app = start("../report.csv")
    app.until("400 rows × 4 columns", "(i tells all)", "no lines yet")
    app.keys("Right", "i")
    app.until("region  text", "2 lines above the header", "1 line below the table", "made by hand; on Monday")
    app.until("'NA' stands among its codes", "kind price number", "no value '' in region")
    app.keys("Enter")
    app.until("cut ▸ no value '' in region", "the texts that mean a missing value")
    app.keys("Enter")
    app.until("read again: 400 rows", "NA")
    app.line("kind price number", "price: all 400 values fit number")
    app.until("price is number now")
    app.keys("i")
    app.until("● no value '' in region   in force", "● kind price number   in force", "read without a €")
    app.keys("Escape")
    app.line("keep region = 'NA' AND price >= 99.5 AND seen < '12:00'", "would leave")
    app.until("cut · ")
