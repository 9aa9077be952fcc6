"""Whole jobs, from opening a file to the slice on disk, as a new user would do them."""

from __future__ import annotations

import csv
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from pyarrow import parquet

Start = Callable


def packs(folder: Path) -> list[dict[str, str]]:
    with open(folder / "yard_2031.csv", encoding="utf-8", newline="") as file:
        return [row for row in csv.DictReader(file) if row["bay"] != "ALL BAYS"]


def test_the_driest_grade_a_oak_is_cut_and_saved(start: Start, tmp_path: Path) -> None:
    """A total row dropped at the cell, a condition with completion and a mend, a draw, columns, a CSV file."""
    app = start()
    app.until("7,650 rows × 71 columns")
    # the first total row: go to the column, go down to it, one key drops all of them
    app.keys("g")
    app.until("go to ▸")
    app.type("bay")
    app.until("the column bay")
    app.keys("Enter")
    app.keys("g")
    app.until("go to ▸")
    app.type("30")
    app.until("row 30 of 7,650")
    app.keys("Enter")
    app.keys("BSpace")
    app.until("drop    bay = 'ALL BAYS'", "−250", "7,400")
    # a text without quotes is mended with one key, the count is there before the cut
    app.keys("w")
    app.type("keep species = oak")
    app.until("'oak' stands in 2,759 rows", "F2 writes  keep species = 'oak'")
    app.keys("F2")
    app.until("would leave 2,759 of 7,400", "(as line 2)")
    app.type(" AND gra")
    app.until("grade")
    app.keys("Tab")
    app.type(" = 'A' AND moisture_pct IS NOT NULL")
    expected = [
        row for row in packs(tmp_path)
        if row["species"] == "oak" and row["grade"] == "A" and row["moisture_pct"] not in ("", "NA", "n/a")
    ]  # fmt: skip
    app.until(f"would leave {len(expected):,} of 7,400")
    app.keys("Enter")
    app.until("cut ▸", gone=True)
    app.line("draw bottom 10 by moisture_pct", "would leave 10")
    app.line("columns ticket, species AS wood, moisture_pct", "3 columns")
    app.until("3 columns", "wood")
    app.keys("C-s")
    app.until("save slice ▸", "writes 10 rows and 3 columns as csv")
    app.keys("Enter")
    app.until("10 rows read back")
    with open(tmp_path / "terminal-0" / "yard_2031-slice.csv", newline="") as file:
        rows = list(csv.DictReader(file))
    driest = sorted(expected, key=lambda row: float(row["moisture_pct"]))[:10]
    assert [row["ticket"] for row in rows] == [row["ticket"] for row in driest]
    assert list(rows[0]) == ["ticket", "wood", "moisture_pct"]
    app.keys("C-q")
    app.until("The cutting list is not saved")
    app.keys("y")
    assert app.status() == 0


def test_a_list_is_edited_saved_and_run_again_on_a_small_terminal(start: Start, tmp_path: Path) -> None:
    """Lines edited, switched off, moved, undone; the list saved, opened again, and run without the app."""
    app = start(columns=80, rows=24)
    app.until("7,650 rows")
    app.line("drop bay = 'ALL BAYS'", "would leave 7,400 of 7,650")
    app.line("keep grade = 'A'", "(as line 2)")
    app.line("order moisture_pct", "(as line 3)")
    # on a narrow terminal list and table take turns
    app.keys("Tab")
    app.until("source", "drop", "keep", "order", "first by moisture_pct")
    app.keys("Up", "x")
    app.until("off")
    app.keys("u")
    app.until("took the last edit back")
    app.keys("e")
    app.until("cut ▸ keep grade = 'A'")
    app.keys("C-e")
    app.type(" OR grade = 'a'")
    app.until("(as line 2)")
    app.keys("Enter")
    app.until("cut ▸", gone=True)
    expected = [row["ticket"] for row in packs(tmp_path) if row["grade"] in ("A", "a")]
    # begun on the list, the line leaves the focus there
    app.until("source", f"{len(expected):,}")
    app.keys("End", ",")
    app.until("2 order")
    app.keys("Delete")
    app.until("took out: order moisture_pct")
    app.keys("u", "u")
    app.until("3 order")
    app.keys("U", "U")
    app.until("3 order", gone=True)
    app.line("columns ticket, grade", "2 columns")
    app.keys("F4")
    app.until("save list ▸", "yard_2031.cut")
    app.keys("Enter")
    app.until("saved the list to yard_2031.cut")
    app.keys("C-q")
    assert app.status() == 0
    folder = tmp_path / "terminal-0"
    assert (folder / "yard_2031.cut").read_text() == (
        'yardcut 1\n\nsource "../yard_2031.csv"\n  kind grade text, bay text\n\ncut "slice"\n'
        "  drop bay = 'ALL BAYS'\n  keep grade = 'A' OR grade = 'a'\n  columns ticket, grade\n"
    )
    done = subprocess.run(
        [sys.executable, "-m", "yardcut", "run", "yard_2031.cut"],
        cwd=folder,
        capture_output=True,
        text=True,
        check=True,
    )
    assert [line.split(",")[0] for line in done.stdout.splitlines()[1:]] == expected
    again = start("../terminal-0/yard_2031.cut", columns=80, rows=24)
    again.until("saved")
    again.keys("Tab")
    again.until("drop", "keep", "columns", f"{len(expected):,}")


@pytest.mark.long  # tests/tui/test_cutting.py has it on every change
def test_the_offcut_says_why_and_marks_stand_before_the_cut(start: Start, tmp_path: Path) -> None:
    """Rows a line would take are hatched in place; the removed rows and their reasons are one key away."""
    app = start()
    app.until("7,650 rows × 71 columns")
    app.keys("w")
    app.type("keep moisture_pct <= 18")
    screen = app.until("for want of a value")
    rows = [line for line in screen.splitlines() if "-31" in line]
    assert any(line.lstrip("▏▌ ").find("╱") >= 0 for line in rows)
    taken = sum(
        1 for row in packs(tmp_path) if row["moisture_pct"] not in ("", "NA", "n/a") and float(row["moisture_pct"]) > 18
    )
    assert f"takes {taken:,}, and" in screen
    app.keys("F5")
    app.until("╱  ", gone=True)
    app.keys("F5", "Enter")
    app.until("cut ▸", gone=True)
    app.until("1 keep    moisture_pct <= 18")
    app.keys("o")
    app.until("offcut of line 1", "why it is here", "not <= 18")
    app.keys("Escape")
    app.until("why it is here", gone=True)
    # the table as of the source, then as of the line again
    app.keys("Tab", "Up")
    app.until("the source as it was read")
    app.keys("Down")
    app.until("line 1 in full")


@pytest.mark.long  # tests/tui/test_main_screen.py has it on every change
def test_moving_about_the_row_card_and_what_cells_hold(start: Start) -> None:
    """Going to rows and columns, a row in full; markup and escape codes are shown, never obeyed."""
    app = start()
    app.until("7,650 rows × 71 columns")
    app.keys("End")
    app.until("label_colour")
    app.keys("C-End")
    app.until("7,650")
    app.keys("<", "Home")
    app.until("00000-31")
    app.keys("NPage")
    app.until("00000-31", gone=True)
    app.keys("<")
    app.line("keep defect_note CONTAINS 'STOP'", "(as line 1)")
    app.keys("g")
    app.until("go to ▸")
    app.type("defect")
    app.until("the column defect_note")
    app.keys("Enter")
    screen = app.until("the label reads ␛[31mSTOP␛[0m")
    assert "\x1b[31mSTOP" not in app.screen(styled=True).replace("␛", "")
    assert "STOP in red" not in screen
    app.keys("f")
    app.until("in the source", "ticket", "text 1")
    app.keys("/")
    app.type("defect_note")
    app.until("the label reads ␛[31mSTOP␛[0m in red")
    app.keys("Enter", "n")
    app.until("row 2,")
    app.keys("C-g")
    app.until("row 2,", gone=True)
    app.line("keep defect_note CONTAINS '[bold]'", "would leave 0")
    app.keys("u")
    app.keys("u")
    app.line("keep defect_note CONTAINS '[bold]'", "(as line 1)")
    app.until("[bold]do not plane[/bold]")


@pytest.mark.long
def test_a_list_with_two_cuts_is_saved_as_parquet_and_never_over_the_source(start: Start, tmp_path: Path) -> None:
    """Switching cuts, the question before something is replaced, the source refused, Parquet read back."""
    (tmp_path / "two.cut").write_text(
        'yardcut 1\nsource "yard_2031.csv"\n'
        'cut "oak"\n  keep species = \'oak\'\n  save "oak.parquet"\n'
        "cut \"yew\"\n  keep species = 'yew'\n  draw random 5\n"
    )
    before = (tmp_path / "yard_2031.csv").read_bytes()
    app = start("../two.cut")
    app.until("oak (1 of 2)", "keep    species = 'oak'")
    app.until("ctrl+s writes the slice")
    app.keys("]")
    app.until("yew (2 of 2)", "draw    random 5")
    app.keys("[")
    app.until("oak (1 of 2)")
    app.until("2,759")
    (tmp_path / "oak.parquet").write_text("something of mine")
    app.keys("C-s")
    app.until("oak.parquet exists", "F5, then Enter writes over it")
    app.keys("F5")
    app.until("Enter writes over")
    app.keys("Enter")
    app.until("2,759 rows read back")
    assert parquet.read_table(tmp_path / "oak.parquet").num_rows == 2759
    app.keys("C-s")
    app.until("save slice ▸")
    app.keys("C-u")
    app.type("../yard_2031.csv")
    app.until("is the source, and a source is never written to")
    app.keys("Enter", "F5")
    app.until("is the source, and a source is never written to", "save slice ▸")
    app.keys("C-g")
    assert (tmp_path / "yard_2031.csv").read_bytes() == before


@pytest.mark.long
def test_without_colours_everything_is_still_told_apart(start: Start) -> None:
    """NO_COLOR: the bar's parts, marks and missing values differ by shape; no colour is sent."""
    app = start(NO_COLOR="1")
    app.until("7,650 rows × 71 columns")
    app.line("drop bay = 'ALL BAYS'", "would leave 7,400")
    app.until("█╱", "−250", "w write")
    app.keys("?")
    app.until("find what to do", "filter, where, find rows")
    app.type("ties")
    app.until("with ties")
    app.keys("Escape")
    app.until("find what to do", gone=True)


def test_a_source_that_fails_while_it_is_read_ends_with_a_sentence(start: Start, tmp_path: Path) -> None:
    body = "".join(f"{row},x\n" for row in range(40_000))
    (tmp_path / "open.csv").write_text(f'a,b\n{body}"never closed,x\n')
    app = start("../open.csv")
    assert app.status() == 1
    app.until("line 40002: a quote opens here and never closes")


@pytest.mark.long
def test_the_kiln_peoples_nine_columns(start: Start, tmp_path: Path) -> None:
    """Columns found by looking, nine chosen out of 71, three renamed, one computed, saved."""
    app = start()
    app.until("7,650 rows × 71 columns")
    app.keys("m")
    app.until("cut ▸")
    app.type("stay_days = EXTRACT(DAY FROM kiln_out) - EXTRACT(DAY FROM kiln_in)")
    app.until("stay_days is an integer", "have none")
    app.keys("C-u")
    app.type("make stay_days = ROUND(kiln_out - kiln_in, 1)")
    app.until("stay_days is a number", "no value in kiln")
    app.keys("Enter")
    app.until("1 make")
    app.keys("c")
    app.until("72 of 72 columns in the cut", "rows 1 to 3 of 7,650 that pass")
    app.keys("/")
    app.type("ticket, species, kiln, stay, moisture_pct, /d0[1-2]$/")
    app.until("9 match")
    app.keys("Enter")
    app.keys("o")
    app.until("9 of 72 columns in the cut", "63 left out of the cut")
    for fragment, name in (("species", "wood"), ("moisture_pct", "moisture"), ("kiln_days", "planned")):
        app.keys("/")
        app.type(fragment)
        app.keys("Enter", "r", "C-u")
        app.type(name)
        app.keys("Enter")
        app.until(f"{name} ", "renamed 1 column")
        app.until(f"→ {name}", gone=True)
    app.keys("Escape", "Escape")
    app.until("9 columns", "wood")
    app.keys("C-s")
    app.until("writes 7,650 rows and 9 columns")
    app.keys("Enter")
    app.until("7,650 rows read back")
    with open(tmp_path / "terminal-0" / "yard_2031-slice.csv", newline="") as file:
        found = list(csv.DictReader(file))
    assert list(found[0]) == ["ticket", "wood", "kiln_in", "kiln_out", "moisture", "planned", "moisture_d01",
                              "moisture_d02", "stay_days"]  # fmt: skip
    with open(tmp_path / "yard_2031.csv", encoding="utf-8", newline="") as file:
        source = list(csv.DictReader(file))
    assert [row["wood"] for row in found] == [row["species"] for row in source]


@pytest.mark.long
def test_the_driest_unsold_oak_is_found_with_every_mistake_on_the_way(start: Start, tmp_path: Path) -> None:
    """Capitals, a text without quotes, a bound too low, brackets, a missing value, a row wrongly cut: each is told."""
    app = start()
    app.until("7,650 rows × 71 columns", "no lines yet")
    # capitals that nobody has: said before Enter, mended on one key
    app.keys("w")
    app.type("keep species = 'OAK'")
    app.until("no row that reaches the line has 'OAK'", "F2 writes  keep species = 'oak'   (would leave 2,759)")
    app.keys("F2")
    app.until("would leave 2,759", "also 'oak ' 76, 'Oak' 72", "IGNORING CASE   (would leave 2,907)")
    app.keys("F2")
    app.until("would leave 2,907")
    app.keys("Enter")
    app.until("2,907 rows left")
    # the grade at the cell, from the list of values: a and A are told to be two
    app.keys("g")
    app.until("go to ▸")
    app.type("grade")
    app.until("the column grade")
    app.keys("Enter")
    app.keys("v")
    app.until("values of grade, as of line 1", "! also a ")
    app.keys("/")
    app.type("a")
    app.keys("Enter", "a")
    app.until("2 ticked: keep leaves")
    app.keys("Escape")
    app.keys("Enter")
    app.until("grade IN ('A', 'a')")
    # a bound no row reaches, and why
    app.line("keep moisture_pct < 5 AND sold_on IS NULL", "would leave 0")
    app.until("0 rows left")
    app.keys("y")
    app.until("line 3 leaves 0 of", "the lowest moisture_pct among the rest is", "alone true of 0 rows")
    app.keys("Down", "Enter")
    app.until("0 → 7", "moisture_pct <= 6.1")
    # loosened by hand in the tree, and the piece that is not needed goes
    app.keys("Tab", "r")
    app.until("line 3: keep what is true of", "sold_on IS NULL")
    app.keys("Down", "Enter")
    app.keys("End", "BSpace", "BSpace", "BSpace")
    app.type("9")
    app.until("the line would leave")
    app.keys("Enter")
    app.until("keep moisture_pct <= 9 AND sold_on IS NULL")
    app.keys("Escape")
    rows = [
        row for row in packs(tmp_path)
        if row["species"].strip().lower() == "oak" and row["grade"] in ("A", "a") and row["sold_on"] == ""
        and row["moisture_pct"] not in ("", "NA", "n/a", "NULL") and float(row["moisture_pct"]) <= 9
    ]  # fmt: skip
    app.until(f"{len(rows):,} rows left")
    # what the line took, by reason; one row is called back alone
    app.keys("O")
    app.until("line 3 removed", "no answer to moisture_pct <= 9")
    app.keys("Enter")
    app.until("why it is here", "Esc goes back")
    app.keys("Tab", "b")
    app.until("this row alone", f"leaves {len(rows) + 1:,}")
    app.keys("End", "Enter")
    app.until(f"{len(rows):,} → {len(rows) + 1:,}", "SOURCE_ROW")
    app.keys("u")
    app.until(f"{len(rows):,} rows left")
    # seen from the driest on, without cutting; then for good
    app.keys("g")
    app.until("go to ▸")
    app.type("moisture_pct")
    app.until("the column moisture_pct")
    app.keys("Enter", "s")
    app.until("look    order moisture_pct", "at work")
    app.keys("S")
    app.until("4 order   moisture_pct")
    app.keys("C-s")
    app.until("save slice ▸", f"writes {len(rows):,} rows")
    app.keys("Enter")
    app.until(f"{len(rows):,} rows read back")
    with open(tmp_path / "terminal-0" / "yard_2031-slice.csv", newline="") as file:
        saved = [row["ticket"] for row in csv.DictReader(file)]
    assert saved == [row["ticket"] for row in sorted(rows, key=lambda row: float(row["moisture_pct"]))]
