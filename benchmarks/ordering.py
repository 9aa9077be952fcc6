"""Orders and draws beside the tools everybody has: the system's sort and shuf, and sqlite3, on the same rows."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.engine import run
from benchmarks.measuring import Measured, compare
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

_KEYS = "grade, felled_on DESC, price_per_m3"
_SHARE = 10
"""The database gets every tenth row, and its time counts ten times: all of them would take minutes."""


def ordering(table: Table, path: Path) -> Iterator[Measured]:
    """Measure each beside ours; what takes long is measured once."""
    with tempfile.TemporaryDirectory() as folder:
        keys = Path(folder) / "keys.csv"
        with open(keys, "wb") as file:
            subprocess.run(["cut", "-d,", "-f3,5,8", str(path)], stdout=file, check=True)
        c_locale = {**os.environ, "LC_ALL": "C"}

        def gnu_sort() -> None:
            words = ["sort", "-t,", "-k1,1", "-k2,2r", "-k3,3n", "-o", str(Path(folder) / "sorted.csv"), str(keys)]
            subprocess.run(words, env=c_locale, check=True)

        def shuf() -> None:
            subprocess.run(["shuf", "-n", "100000", str(keys)], stdout=subprocess.DEVNULL, check=True)

        order = lambda: run(table, f"order {_KEYS}")  # noqa: E731
        yield compare("three-key sort", order, "GNU sort of just the keys", gnu_sort, 1 / 40, tries=1)
        yield compare("sample of 100,000", lambda: run(table, "draw random 100000 seed 7"), "shuf -n", shuf, 1 / 5, 3)
        with sqlite3.connect(":memory:") as database:
            _fill(database, keys)
            for name, line, query in (
                ("three-key sort", f"order {_KEYS}", "ORDER BY grade, felled_on DESC, price"),
                ("top 1,000", "draw top 1000 by price_per_m3", "ORDER BY price DESC LIMIT 1000"),
            ):
                start = time.perf_counter()
                run(table, line)
                between = time.perf_counter()
                database.execute(f"SELECT rowid FROM packs {query}").fetchall()
                theirs = _SHARE * (time.perf_counter() - between)
                yield Measured(name, between - start, theirs, "sqlite3, by scale", 1 / 20)
    yield nudging(table)


def _fill(database: sqlite3.Connection, keys: Path) -> None:
    database.execute("CREATE TABLE packs (grade TEXT, felled_on TEXT, price REAL)")
    with open(keys, encoding="utf-8") as file:
        next(file)
        rows = (line.rstrip("\n").split(",") for number, line in enumerate(file) if number % _SHARE == 0)
        database.executemany("INSERT INTO packs VALUES (?, ?, ?)", rows)


def nudging(table: Table) -> Measured:
    """Measure one more row of a top, of which the ranks are known, beside the first time."""
    executor = Executor(LocalRunner(table))
    numbers = iter(range(1000, 2000))

    def nudged() -> None:
        list(executor.run(Cut("", (Line(f"draw top {next(numbers)} by price_per_m3"),))))

    nudged()
    nudged()  # from the second number on, more are ranked than are asked for
    fresh = lambda: run(table, "draw top 1000 by price_per_m3")  # noqa: E731
    return compare("top 1,000, nudged by one", nudged, "the first time", fresh, 0.2)
