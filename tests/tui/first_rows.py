"""Driving the app on a source of which the first rows are there, and counting these elsewhere."""

from __future__ import annotations

import csv
import sqlite3
from collections.abc import Awaitable, Callable
from pathlib import Path

from tui.driving import Driven, drive
from tui.gate import Gate

WOODS = ("oak", "ash", "larch", "oak", "yew")
ROWS = 3000
OAK = "species = 'oak'"


def count(path: Path, first: int, condition: str) -> int:
    """Count among the first rows of the file, elsewhere."""
    base = sqlite3.connect(":memory:")
    base.execute("CREATE TABLE yard (ticket TEXT, species TEXT, boards INTEGER, price REAL)")
    with open(path, newline="") as file:
        base.executemany("INSERT INTO yard VALUES (?, ?, ?, ?)", list(csv.reader(file))[1 : first + 1])
    return int(base.execute(f"SELECT COUNT(*) FROM yard WHERE {condition}").fetchone()[0])


def rows_said(screen: str) -> int:
    """Return of how many first rows the list says its figures are."""
    return int(screen.split("so far, of the first ")[1].split(" rows")[0].replace(",", ""))


async def more_rows(gate: Gate, app: Driven, first: int) -> str:
    """Let blocks be read until more rows are on the screen; return it."""
    for _ in range(9):
        gate.let(1)
        screen = await app.settled()
        if rows_said(screen) > first:
            return screen
    raise AssertionError(f"never more than {first} rows\n{screen}")


def with_first_rows(gate: Gate, yard: Path, steps: Callable[[Driven], Awaitable[None]]) -> None:
    """Open a source of which some blocks are read, and go through some steps."""

    async def go(app: Driven) -> None:
        try:
            await app.until("yard.csv")
            gate.let(4)
            await app.until("so far, of the first")
            await steps(app)
        finally:
            gate.let(10**6)  # the app ends when its threads do

    drive(yard, go)
