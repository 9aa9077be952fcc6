"""Choosing a table of a database: one that cannot be read leads back to the choice."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats.inside import TableLook
from yardcut.core.sources.formats.sqlite import tables_of
from yardcut.tui.opened_with import Opening


@pytest.mark.long
def test_a_view_that_cannot_be_read_leads_back_to_the_choice(tmp_path: Path) -> None:
    path = tmp_path / "yard.db"
    with contextlib.closing(sqlite3.connect(path)) as database, database:
        database.execute("create table packs (ticket, boards)")
        database.execute("insert into packs values ('00001-31', 12)")
        database.execute("create view broken as select * from nowhere")

    async def steps(app: Driven) -> None:
        await app.until("holds 2 tables", "a view that cannot be read")
        await app.press("home", "enter")
        await app.until("holds 2 tables", "nowhere")
        await app.press("tab")
        await app.type("select absent from packs")
        await app.press("enter")
        await app.until("holds 2 tables", "absent")
        await app.press("down", "enter")
        await app.until("1 row", "00001-31")

    drive(path, steps)


@pytest.mark.long
def test_hundreds_of_tables_are_listed_at_once(tmp_path: Path) -> None:
    path = tmp_path / "yard.db"
    endless = "with recursive n(x) as (select 1 union all select x + 1 from n) select x from n"
    with contextlib.closing(sqlite3.connect(path)) as database, database:
        for number in range(300):
            database.execute(f"create view v{number} as {endless}")
    before = time.thread_time()
    tables = tables_of(path)
    assert time.thread_time() - before < 10
    assert len(tables) == 300
    assert all(table.columns == 1 and table.rows is None for table in tables)


def test_a_table_is_looked_at_before_it_is_opened(tmp_path: Path) -> None:
    path = tmp_path / "yard.db"
    with contextlib.closing(sqlite3.connect(path)) as database, database:
        database.execute("create table mills (id, name)")
        database.execute("insert into mills values (7, 'Alder Mill')")
        database.execute("create table packs (ticket, boards, felled_on)")
        database.executemany("insert into packs values (?, ?, ?)", [(f"{n:05}-31", n, "2031-03-01") for n in range(40)])

    async def steps(app: Driven) -> None:
        await app.until("holds 2 tables", "2 columns, 1 row", "Alder Mill")
        await app.press("down")
        await app.until("3 columns", "felled_on", "date", "00007-31", "2031-03-01")
        await app.press("down")
        await app.until("lined up by the names of their columns")
        await app.press("up", "enter")
        await app.until("40 rows × 3 columns")

    drive(path, steps)


def test_a_look_that_comes_when_a_table_is_chosen_already_is_let_go(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "yard.db"
    with contextlib.closing(sqlite3.connect(path)) as database, database:
        database.execute("create table mills (id, name)")
        database.execute("insert into mills values (7, 'Alder Mill')")
        database.execute("create table packs (ticket)")
    looked, goes_on = Opening.look_inside, threading.Event()

    def late(self: Opening, name: str, token: CancelToken) -> TableLook:
        goes_on.wait(20)
        return looked(self, name, CancelToken())

    monkeypatch.setattr(Opening, "look_inside", late)

    async def steps(app: Driven) -> None:
        await app.until("holds 2 tables")
        await app.press("down", "up")
        app.app.call_later(goes_on.set)
        await app.press("enter")
        await app.until("1 row × 2 columns", "Alder Mill")
        await app.settled()

    drive(path, steps)


def test_a_worksheet_is_looked_at_before_it_is_opened_and_one_alone_is_opened(tmp_path: Path) -> None:
    import openpyxl

    book = openpyxl.Workbook()
    book.active.title = "packs"
    for row in (["Yard report"], [None], ["ticket", "boards"], *([f"T{n}", n] for n in range(12))):
        book.active.append(row)
    book.create_sheet("empty")
    book.save(tmp_path / "one.xlsx")
    mills = book.create_sheet("mills")
    mills.append(["id", "name"])
    mills.append([7, "Alder Mill"])
    book.save(tmp_path / "two.xlsx")

    async def one(app: Driven) -> None:
        await app.until("12 rows × 2 columns")

    async def two(app: Driven) -> None:
        await app.until("holds 2 tables", "12 rows × 2 columns", "T7")
        await app.press("down")
        await app.until("1 row × 2 columns", "Alder Mill")
        await app.press("enter")
        await app.until("two.xlsx", "Alder Mill", "no lines yet")

    drive(tmp_path / "one.xlsx", one)
    drive(tmp_path / "two.xlsx", two)


@pytest.mark.long
def test_what_is_found_before_a_table_is_chosen_waits_for_that(tmp_path: Path) -> None:
    path = tmp_path / "yard.sqlite"
    with contextlib.closing(sqlite3.connect(path)) as base:
        base.execute("CREATE TABLE packs (ticket TEXT)")
        base.execute("CREATE TABLE mills (id TEXT)")
        base.commit()

    async def steps(app: Driven) -> None:
        await app.until("holds 2 tables")
        for word in ("undo", "percentile", "switch off", "next seed"):
            await app.press("f3")
            await app.until("find what to do")
            await app.type(word)
            await app.until("a table is to be chosen first")
            await app.press("enter")
            await app.until("holds 2 tables")
            assert app.app.is_running
        await app.press("f3")
        await app.type("dark")
        await app.press("enter")
        await app.until("holds 2 tables")
        await app.press("enter")
        await app.until("0 rows")

    drive(path, steps)
