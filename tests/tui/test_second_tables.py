"""Second tables in the app: columns brought on a card, keys that only one side has, values pasted and asked for."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from textual import events

from tui.driving import Driven, drive
from yardcut.core.sources.spec import SourceSpec

PACKS = [
    ("T-1", "M1", "oak", "3"), ("T-2", "M2", "ash", "5"), ("T-3", "M1", "oak", "8"), ("T-4", "M9", "yew", "1"),
    ("T-5", "", "elm", "2"), ("T-6", "M3", "Oak", "4"),
]  # fmt: skip


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    (tmp_path / "packs.csv").write_text(
        "ticket,mill_id,species,boards\n" + "".join(",".join(row) + "\n" for row in PACKS)
    )
    (tmp_path / "mills.csv").write_text(
        "id,name,region\nM1,Alder,hill\nM2,Birch,coast\nM3,Cedar,hill\nM3,Cedrus,coast\nM7,Fir,hill\n"
    )
    return tmp_path


def run(yard: Path, steps, size: tuple[int, int] = (160, 47)) -> None:  # type: ignore[no-untyped-def]
    drive(SourceSpec(("packs.csv",), (), yard), steps, size)


def paste(app: Driven, text: str) -> None:
    app.app.dispatcher.take(events.Paste(text))  # type: ignore[attr-defined]


def test_columns_are_brought_on_a_card(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.press("b")
        await app.until("second table ▸")
        await app.type("mills.csv")
        await app.until("the file mills.csv beside this table")
        await app.press("enter")
        await app.until("bring columns: line 1", "mill_id = id", "M3 (2 times)", "6 rows", "7 rows")
        await app.press("m")
        await app.until(
            "4 rows with a match", "1 without", "1 with no value", "1 with several", "1 key nobody has here"
        )
        await app.until("by mill_id = id first match")
        await app.press("n")
        await app.until("1 key of", "there, and no row here has them", "M7")
        await app.press("tab")
        await app.until("1 key here without a row", "M9")
        await app.press("escape", "tab", "down", "down", "space")
        await app.until('bring name from "mills.csv"')
        await app.press("enter")
        await app.until("bring columns", gone=True)
        await app.until("4 with a match, 1 without", "Alder", "Cedar")
        await app.press("tab", "b")  # the card of the line itself
        await app.until("bring columns: line 1", "4 rows with a match")
        await app.press("m", "m")
        await app.until("M3 (2 times)")
        await app.press("enter")  # what is wrong is not written
        await app.until("bring columns: line 1")
        await app.press("m", "m")
        await app.until("every match", "leaves 7")
        await app.press("enter")
        await app.until("bring columns", gone=True)
        await app.until("7 rows left", "Cedrus")

    run(yard, steps)


@pytest.mark.long
def test_what_was_asked_for_and_is_not_there_is_counted_listed_and_saved(yard: Path) -> None:
    (yard / "asked.txt").write_text("T-2\nT-3\nT-77\nt-4\nT-2\n")

    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.line('keep ticket IN "asked.txt"', "would leave 2 of 6", "2 of 4 values in")
        await app.until("2 rows left", "2 of 4 asked for are not there: n")
        await app.press("tab", "n")
        await app.until("asked for and not there", "T-77", "t-4", "but 'T-4' differs in capitals only")
        await app.press("s")
        await app.until("keys to ▸")
        await app.press("ctrl+u")
        await app.type(str(yard / "gone.csv"))
        await app.until("writes 2 keys")
        await app.press("enter")
        await app.until("wrote")
        assert (yard / "gone.csv").read_text() == "ticket\nT-77\nt-4\n"

    run(yard, steps)


@pytest.mark.long
def test_a_second_table_that_changes_is_noticed_and_one_that_is_gone_makes_its_line_wrong(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.line('bring name from "mills.csv" by mill_id = id first match', "(as line 1)")
        await app.until("4 with a match, 1 without")
        path = yard / "mills.csv"
        path.write_text(path.read_text() + "M9,Ginkgo,hill\n")
        os.utime(path, ns=(1, 1))
        await app.press("R")
        await app.until("5 with a match, 0 without", "Ginkgo")
        path.unlink()
        await app.press("R")
        await app.until("there is no file")

    run(yard, steps)


def test_values_that_are_pasted_are_ticked(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.press("right", "right", "v")
        await app.until("values of species", "5 values")
        paste(app, "YEW,\n 'ash'\nlarch\nash\n")
        await app.until("2 ticked: keep leaves 2 of 6", "2 values ticked", "1 spelled as they are here", "larch")
        await app.press("enter")
        await app.until("2 rows left")

    run(yard, steps)


@pytest.mark.long
def test_values_that_are_pasted_behind_in_are_written_as_the_column_needs_them(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.press("w")
        await app.until("cut ▸")
        await app.type("keep species IN (")
        paste(app, 'oak\nash,\n"yew"\n')
        await app.until("keep species IN ('oak', 'ash', 'yew')", "would leave 4 of 6")
        await app.press("enter")
        await app.until("4 rows left")
        await app.press("w")
        await app.type("keep boards IN (")
        paste(app, "3.0\n05\n8\n")
        await app.until("keep boards IN (3, 5, 8)")
        await app.press("escape", "w")
        await app.type("keep ticket IN (")
        paste(app, "\n".join(f"T-{number}" for number in range(1, 60)))
        await app.until("59 values: write them to")
        await app.press("f")
        await app.until('keep ticket IN "asked.txt"', "would leave 4 of 4")
        assert (yard / "asked.txt").read_text().splitlines() == [f"T-{number}" for number in range(1, 60)]

    run(yard, steps)


@pytest.mark.long
def test_a_further_source_is_written_at_the_prompt_and_named_in_a_line(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.line('source "mills.csv" AS mills', "mills: 5 rows of id text, name text, region text")
        await app.line("bring region from mills by mill_id = id first match", "4 rows with a match in mills")
        await app.until("4 with a match, 1 without", "coast")
        await app.press("u", "u")
        await app.until("no lines yet")

    run(yard, steps)


def test_a_line_is_entered_before_its_table_is_read(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.press_quickly("w", *'bring name from "mills.csv" by mill_id = id first match', "enter")
        await app.until("4 with a match, 1 without", "Alder")

    run(yard, steps)


@pytest.mark.long
def test_columns_are_brought_from_an_earlier_cut(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("6 rows × 4 columns")
        await app.line("tally SUM(boards) AS whole per species")
        await app.until("5 rows left")
        await app.press("ctrl+n")
        await app.until("(2 of 2)")
        await app.press("tab", "delete")
        await app.until("no lines yet")
        await app.press("tab", "b")
        await app.until("second table ▸", "slice")
        await app.type("nothing")
        await app.until("there is no file")
        await app.press("ctrl+u")
        await app.type("slice")
        await app.until("the cut slice beside this table")
        await app.press("enter")
        await app.until("bring columns: line 1", "species", "6 rows with a match", 'from cut "slice" by species')
        await app.press("enter")
        await app.until("6 with a match, 0 without", "whole")

    run(yard, steps)


def test_the_nearest_earlier_row_is_offered_where_both_have_moments(tmp_path: Path) -> None:
    (tmp_path / "packs.csv").write_text(
        "ticket,bay,kiln_in\nT1,N1,2031-03-05\nT2,N1,2031-03-20\nT3,S1,2031-03-01\nT4,S1,\n"
    )
    (tmp_path / "settings.csv").write_text("bay,set_at,heat\nN1,2031-03-01,60\nN1,2031-03-10,65\nS1,2031-03-02,70\n")

    async def steps(app: Driven) -> None:
        await app.until("4 rows × 3 columns")
        await app.press("b")
        await app.type("settings.csv")
        await app.until("the file settings.csv beside this table")
        await app.press("enter")
        await app.until(
            "bay = bay",
            "latest set_at <= kiln_in",
            "has keys that stand there several times",
            "Space on one with latest takes the nearest earlier row",
        )
        await app.press("end", "space")
        await app.until("2 rows with a match", "by bay, latest set_at <= kiln_in")
        await app.press("enter")
        await app.until("bring", "65", "60")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
