"""Second tables beside a look-up table over codes, the same column read once from a file, and fixed times."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pyarrow as pa
from pyarrow import csv

from benchmarks.engine import run
from benchmarks.measuring import Measured, PeakMemory, compare
from yardcut.core.table.stored_table import Table
from yardcut.core.table.vectors import CodedVector

_STEP = 1 << 19
_ASKED = 1_000_000


def second_tables(table: Table) -> Iterator[Measured | str]:
    """Measure keys of few values, a long list of texts, and as many different keys as there are rows."""
    names = [column.name for column in table.columns]
    bay = table.columns[names.index("bay")]
    with tempfile.TemporaryDirectory() as folder:
        bays, asked, own = (Path(folder) / name for name in ("bays.csv", "asked.txt", "own.csv"))
        words = bay.dictionary.texts
        bays.write_text("bay,place\n" + "".join(f"{word},{place}\n" for place, word in enumerate(words)))
        _write_tickets(table, names.index("ticket"), asked, own)

        def by_codes() -> int:
            look, total = np.arange(len(words) + 1), 0
            for start in range(0, table.rows, _STEP):
                part = bay.slice(start, min(start + _STEP, table.rows))
                assert isinstance(part, CodedVector)
                total += int(look[part.codes].sum())
            return total

        yield compare(
            "bring by a key of few values", lambda: run(table, f'bring place from "{bays}" by bay'),
            "look-up table over the codes", by_codes, 2, 3,
        )  # fmt: skip
        only = csv.ConvertOptions(include_columns=["ticket"], column_types={"ticket": pa.string()})
        yield compare(
            "a list of a million texts", lambda: run(table, f'keep ticket IN "{asked}"'),
            "the column read once from a file", lambda: csv.read_csv(own, convert_options=only), 2, 3,
        )  # fmt: skip
        with PeakMemory() as peak:
            yield compare(
                "as many different keys as rows", lambda: run(table, f'bring place from "{own}" by ticket'),
                "30 s for ten million", lambda: None, 1e9, 1,
            )  # fmt: skip
        yield f"  {peak.bytes / 1e9:.2f} GB of memory (1.5 for ten million)"


def _write_tickets(table: Table, number: int, asked: Path, own: Path) -> None:
    """Write a million of the tickets as a list, and all of them with their place as a table, in another sequence."""
    column = table.columns[number]
    order = np.random.default_rng(5).permutation(table.rows)
    with open(asked, "w") as few, open(own, "w") as all_of_them:
        all_of_them.write("ticket,place\n")
        written = 0
        for start in range(0, table.rows, _STEP):
            texts = column.take(order[start : start + _STEP]).texts()
            all_of_them.writelines(f"{text},{start + place}\n" for place, text in enumerate(texts))
            few.writelines(f"{text}\n" for text in texts[: max(0, _ASKED - written)])
            written += len(texts)
