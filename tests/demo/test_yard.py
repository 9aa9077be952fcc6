"""The demo yard holds the troubles it promises, in known numbers: counted with the csv module."""

from __future__ import annotations

import csv
from collections import Counter
from pathlib import Path

import pytest

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.delimited_blocks.dropped import BLANK, REPEATED_HEADER, TOO_FEW, TOO_MANY
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.values.kinds import Kind
from yardcut.demo.files import ALL_BAYS, BLANK_ROWS, DASHED_READINGS, READY_ROWS, columns_of, plans, write_yard
from yardcut.demo.packs import WORKING_DAYS

ENCODINGS = {2029: "cp1252", 2030: "utf-8", 2031: "utf-8"}


def records(folder: Path, year: int) -> list[list[str]]:
    with open(folder / f"yard_{year}.csv", encoding=ENCODINGS[year], newline="") as file:
        return list(csv.reader(file, delimiter=";" if year == 2029 else ","))


@pytest.mark.parametrize("year", [2029, 2030, 2031])
def test_every_pack_and_one_total_a_day_are_there(yard: Path, year: int) -> None:
    header, *rows = records(yard, year)
    assert header == columns_of(year)
    packs = next(plan.packs for plan in plans(READY_ROWS) if plan.year == year)
    bay = header.index("bay")
    assert sum(1 for row in rows if row and row[bay] == ALL_BAYS) == WORKING_DAYS
    tickets = [row[0] for row in rows if row and row[0] not in ("", "ticket")]
    assert tickets == [f"{number:05d}-{year % 100}" for number in range(packs)]
    table = open_table(yard / f"yard_{year}.csv")
    assert table.rows == packs + WORKING_DAYS
    assert table.info.dropped(BLANK) == (BLANK_ROWS if year == 2030 else 0)
    assert table.info.dropped(REPEATED_HEADER) == (year == 2030)
    assert table.info.dropped(TOO_MANY, TOO_FEW) == 0


def test_the_years_differ_as_real_files_do(yard: Path) -> None:
    assert columns_of(2029) == columns_of(2030)
    assert set(columns_of(2031)) - set(columns_of(2030)) == {"stack_height_mm", "label_colour", "size_class"}
    assert set(columns_of(2030)) - set(columns_of(2031)) == {"nominal_size"}
    assert [name for name in columns_of(2031) if name in columns_of(2030)] != columns_of(2030)
    assert records(yard, 2030).count(columns_of(2030)) == 2
    assert open_table(yard / "yard_2029.csv").info.files[0].form == {
        "delimiter": ";", "decimal": ",", "encoding": "cp1252", "quote": '"', "thousands": "", "comment": "",
        "skip": 0, "header": 1, "width": 69, "ragged": False, "footer": None,
        "returns": False, "line_ends": "lf",
    }  # fmt: skip


def test_the_late_troubles_of_2031_are_set_aside(yard: Path) -> None:
    table = open_table(yard / "yard_2031.csv")
    infos = {column.name: column.info for column in table.columns}
    assert infos["moisture_d07"].set_aside_texts == (("--", DASHED_READINGS),)
    assert infos["weight_kg"].set_aside_texts == (("heavy", 1),)
    rows = records(yard, 2031)[1:]
    weight = columns_of(2031).index("weight_kg")
    assert next(place for place, row in enumerate(rows) if row[weight] == "heavy") > len(rows) * 0.9


def test_kinds_are_those_a_yard_needs(yard: Path) -> None:
    kinds = {column.name: column.kind for column in open_table(yard / "yard_2031.csv").columns}
    assert kinds["ticket"] is Kind.TEXT
    assert kinds["invoice_no"] is Kind.INTEGER
    assert kinds["reserved"] is kinds["certified"] is Kind.BOOLEAN
    assert kinds["felled_on"] is kinds["sold_on"] is Kind.DATE
    assert kinds["kiln_in"] is kinds["inspected_at"] is Kind.TIMESTAMP
    assert all(kinds[f"moisture_d{day:02d}"] is Kind.NUMBER for day in range(1, 29))
    assert len(kinds) == 71


def test_spellings_sizes_and_ties(yard: Path) -> None:
    header, *rows = records(yard, 2031)
    place = {name: number for number, name in enumerate(header)}
    packs = [row for row in rows if row[place["ticket"]]]
    species = Counter(row[place["species"]] for row in packs)
    odd = species["Oak"] + species["oak "]
    assert 0.01 < odd / len(packs) < 0.03
    assert species["oak"] > 2000
    assert 5 <= species["yew"] <= 30
    small = {row[place["inspector"]] for row in packs if row[place["grade"]] == "a"}
    assert small == {"Quill", "Dassel"}
    prices = Counter(row[place["price_per_m3"]] for row in packs)
    assert prices.most_common(1)[0][1] > 20
    missing = Counter(row[place["moisture_pct"]] for row in packs if row[place["moisture_pct"]] in ("", "NA", "n/a"))
    assert set(missing) == {"", "NA", "n/a"}
    notes = {row[place["defect_note"]] for row in packs}
    assert any("\x1b" in note for note in notes)
    assert any("[red]" in note for note in notes)
    assert any("\n" in note for note in notes)
    assert all(int(row[place["invoice_no"]] or 2**53 + 1) > 2**53 for row in packs)


def test_mills_have_a_gap_and_a_double(yard: Path) -> None:
    with open(yard / "mills.csv", newline="") as file:
        ids = [row["id"] for row in csv.DictReader(file)]
    assert len(ids) == 40
    assert "M17" not in ids
    assert ids.count("M05") == 2


@pytest.mark.long  # the ready set, below, holds it on every change
def test_a_made_yard_is_the_same_every_time(tmp_path: Path) -> None:
    for name in ("a", "b"):
        write_yard(tmp_path / name, 400, CancelToken(), Progress())
    for path in sorted((tmp_path / "a").iterdir()):
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes()


@pytest.mark.long
def test_the_ready_set_is_what_the_generator_makes(tmp_path: Path, yard: Path) -> None:
    write_yard(tmp_path, READY_ROWS, CancelToken(), Progress())
    for path in sorted(tmp_path.iterdir()):
        assert path.read_bytes() == (yard / path.name).read_bytes()
