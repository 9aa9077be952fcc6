"""Two stories: tickets that somebody asked for, some of which do not exist, and the names of mills from another file."""

from __future__ import annotations

import csv
import random
from collections.abc import Callable
from pathlib import Path

import pytest

Start = Callable


def rows_of(path: Path) -> list[dict[str, str]]:
    with open(path, encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def records_of(path: Path) -> list[str]:
    """Return the texts of a file's rows; some go over several lines."""
    lines = path.read_text().splitlines(keepends=True)
    reader, found, first = csv.reader(lines), [], 0
    for _ in reader:
        found.append("".join(lines[first : reader.line_num]))
        first = reader.line_num
    return found


def test_300_tickets_five_of_which_do_not_exist(start: Start, tmp_path: Path) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    there = sorted({row["ticket"] for row in rows_of(tmp_path / "yard_2031.csv")} - {"", "NA", "n/a"})
    asked = [*random.Random(3).sample(there, 295), *(f"9999{number}-31" for number in range(5))]
    (tmp_path / "terminal-0" / "asked.txt").write_text("".join(f"{ticket}\n" for ticket in asked))
    app.keys("w")
    app.until("cut ▸")
    app.type('keep ticket IN "asked.txt"')
    app.until("would leave 295 of 7,650")
    app.keys("Enter")
    app.until("295 rows left", "5 of 300 asked for are not there")
    app.keys("Tab", "n")
    app.until("5 keys of", "99990-31", "99994-31")
    app.keys("s")
    app.until("keys to ▸")
    app.keys("C-u")
    app.type(str(tmp_path / "gone.csv"))
    app.until("writes 5 keys")
    app.keys("Enter")
    app.until("wrote")
    assert [row["ticket"] for row in rows_of(tmp_path / "gone.csv")] == [f"9999{number}-31" for number in range(5)]
    app.keys("C-s")
    app.until("save slice ▸")
    app.keys("C-u")
    app.type(str(tmp_path / "slice.csv"))
    app.until("295 rows")
    app.keys("Enter")
    app.until("wrote")
    head, *records = records_of(tmp_path / "yard_2031.csv")
    wanted = [record for record in records if record.partition(",")[0] in set(asked)]
    assert (tmp_path / "slice.csv").read_text() == "".join([head, *wanted])  # cells as they came


@pytest.mark.long
def test_mills_by_name_three_without(start: Start, yard: Path, tmp_path: Path) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    mills = rows_of(yard / "mills.csv")
    gone = {"M02", "M04"}  # and M41, which was never there
    with open(tmp_path / "terminal-0" / "mills.csv", "w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, ["id", "name", "region"], lineterminator="\n")
        writer.writeheader()
        writer.writerows(row for row in mills if row["id"] not in gone)
    app.keys("b")
    app.until("second table ▸")
    app.type("mills.csv")
    app.until("beside this table")
    app.keys("Enter")
    app.until("bring columns", "mill_id = id", "M05 (2 times)")
    app.keys("m")
    app.until("rows with a match")
    app.keys("n")
    app.until("keys here without a row", "M02", "M04", "M41")
    app.keys("Escape")
    app.until("keys here without a row", gone=True)
    app.keys("Enter")
    app.until("bring columns", gone=True)
    app.until("7,650 rows left")
    app.keys("C-s")
    app.until("save slice ▸")
    app.keys("C-u")
    app.type(str(tmp_path / "slice.csv"))
    app.until("7,650 rows")
    app.keys("Enter")
    app.until("wrote")
    first = {}
    for row in mills:
        if row["id"] not in gone:
            first.setdefault(row["id"], row)
    found = rows_of(tmp_path / "slice.csv")
    source = rows_of(tmp_path / "yard_2031.csv")
    assert len(found) == len(source)
    for row, was in zip(found, source, strict=True):
        mill = first.get(was["mill_id"], {"name": "", "region": ""})
        assert (row["name"], row["region"]) == (mill["name"], mill["region"])
