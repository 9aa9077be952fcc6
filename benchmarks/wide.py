"""Files of thousands of columns: reading beside pyarrow's own, a few rows beside a few columns, the second opening."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from platformdirs import user_cache_path
from pyarrow import csv

from benchmarks.measuring import Measured, compare, seconds
from yardcut.core.sources.opening_sources import open_table

COLUMNS = 5_000
ROWS = 20_000
_BLOCK_ROWS = 500
_SPECIES = ["oak", "ash", "larch"]


def wide_file(rows: int, columns: int = COLUMNS) -> Path:
    """Return a file of many columns of five kinds, making it when it is not there."""
    path = user_cache_path("yardcut") / "benchmarks" / f"wide_{columns}_{rows}.csv"
    if path.exists():
        return path
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial")
    random = np.random.default_rng(2031)
    with open(partial, "w", encoding="utf-8") as file:
        file.write(",".join(f"c{number}" for number in range(columns)) + "\n")
        for start in range(0, rows, _BLOCK_ROWS):
            count = min(_BLOCK_ROWS, rows - start)
            cells = [_column(random, number % 5, count) for number in range(columns)]
            file.write("\n".join(map(",".join, zip(*cells, strict=True))) + "\n")
    partial.rename(path)
    return path


def _column(random: np.random.Generator, kind: int, count: int) -> list[str]:
    match kind:
        case 0:
            return list(map(str, random.integers(0, 10**6, count).tolist()))
        case 1:
            return [f"{value:.4f}" for value in random.random(count).tolist()]
        case 2:
            return [_SPECIES[place] for place in random.integers(0, 3, count).tolist()]
        case 3:
            return list(map(str, (np.datetime64("2031-01-01") + random.integers(0, 90, count)).tolist()))
    return [f"t{value}" for value in random.integers(0, 10**9, count).tolist()]


def _in_own_cache(work: Callable[[], float]) -> float:
    before = os.environ.get("XDG_CACHE_HOME")
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        try:
            return work()
        finally:
            if before is None:
                del os.environ["XDG_CACHE_HOME"]
            else:
                os.environ["XDG_CACHE_HOME"] = before


def wide() -> Iterator[Measured]:
    """Measure wide text; the yardsticks of the last two are the limits themselves."""
    large, few, narrow = wide_file(ROWS), wide_file(3), wide_file(3, 5)
    again = 0.0

    def read(path: Path) -> Callable[[], float]:
        return lambda: _in_own_cache(lambda: seconds(lambda: open_table(path)))

    def read_twice() -> float:
        nonlocal again
        open_table(large)
        again = seconds(lambda: open_table(large))
        return again

    yield compare(
        f"{ROWS:,} rows x {COLUMNS:,} columns", lambda: _in_own_cache(read_twice), "pyarrow read_csv",
        lambda: csv.read_csv(large), 2, tries=1,
    )  # fmt: skip
    yield Measured("opened again", again, 0.5, "the limit itself", 1)
    read(narrow)()
    more = min(read(few)() for _ in range(5)) - min(read(narrow)() for _ in range(5))
    yield Measured("3 rows of them more than of 5", more, 1.0, "the limit itself", 1)
