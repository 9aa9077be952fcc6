"""Every dialect with every oddity, read back: what the csv module finds under the form the file was written in."""

from __future__ import annotations

import csv
import gzip
import io
import itertools
import random
from pathlib import Path

import numpy as np
import pytest

from thoroughness import IS_LONG, some
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import DeclaredKind, FormLine, KindLine, NoValueLine, Selector, SourceSpec, SubLine
from yardcut.core.values.kinds import Kind

WORDS = [
    "oak",
    "élan",
    "木",
    "007",
    "1.50",
    "1,5",
    "-",
    "a;b",
    "a,b",
    "a|b",
    'say "it"',
    'ends "',
    "it's",
    "two\nlines",
    " blank ",
    "NA",
    "2031-03-01",
    "TRUE",
    "[red]",
    "\x1b[1m",
    "x" * 300,
]
DELIMITERS, QUOTES, ENDS = [",", ";", "\t", "|"], ['"', "'"], ["\n", "\r\n"]
ENCODINGS = ["utf-8", "utf-8-sig", "utf-16", "cp1252"]
Dialect = tuple[str, str, str, str, int, str]


def dialects() -> list[Dialect]:
    every = list(itertools.product(DELIMITERS, QUOTES, ENDS, ENCODINGS, [1, 0], ["needed", "all"]))
    random.Random(5).shuffle(every)
    return every if IS_LONG else every[:28]


def rows_of(seed: int, encoding: str, oddity: str) -> list[list[str]]:
    chance = random.Random(seed)
    words = [word for word in WORDS if encoding != "cp1252" or word.encode("cp1252", "ignore").decode("cp1252") == word]
    rows = [[str(number), *(chance.choice(words) for _ in range(3))] for number in range(1, 90)]
    if oddity == "empty cells":
        rows = [[cell if chance.random() < 0.5 or place == 0 else "" for place, cell in enumerate(row)] for row in rows]
    if oddity == "line breaks":
        rows = [[row[0], row[1] + "\nand more", *row[2:]] for row in rows]
    if oddity == "quotes":
        rows = [[row[0], '"', "''", '""x""'] for row in rows]
    return rows


def written(path: Path, rows: list[list[str]], dialect: Dialect) -> list[list[str]]:
    """Write rows with the csv module, and return what that module reads of them."""
    delimiter, quote, ends, encoding, header, quoting = dialect
    file = io.StringIO()
    how = csv.QUOTE_ALL if quoting == "all" else csv.QUOTE_MINIMAL
    writer = csv.writer(file, delimiter=delimiter, quotechar=quote, lineterminator=ends, quoting=how)
    writer.writerows([["n", "a", "b", "c"]] * header + rows)
    data = file.getvalue().encode(encoding)
    path.write_bytes(gzip.compress(data) if path.suffix == ".gz" else data)
    return list(csv.reader(io.StringIO(data.decode(encoding), newline=""), delimiter=delimiter, quotechar=quote))[
        header:
    ]


@pytest.mark.parametrize("oddity", some(["line breaks", "quotes", "empty cells", "none"], 1))
def test_every_cell_is_what_another_reader_finds(tmp_path: Path, oddity: str) -> None:
    for number, dialect in enumerate(dialects()):
        delimiter, quote, _, encoding, header, _ = dialect
        path = tmp_path / f"{number}.csv{'.gz' if number % 5 == 0 else ''}"
        expected = written(path, rows_of(number, encoding, oddity), dialect)
        every = KindLine(None, ((Selector("*", is_pattern=True), DeclaredKind(Kind.TEXT)),))
        said: tuple[SubLine, ...] = (
            FormLine(delimiter=delimiter, quote=quote, encoding=encoding, header=header, skip=0, footer=0),
            NoValueLine(None, ("",)),
            every,
        )
        guessed: tuple[SubLine, ...] = (FormLine(header=header, quote=quote, footer=0), NoValueLine(None, ("",)), every)
        for lines in (said, guessed):
            table = open_table(SourceSpec((str(path),), lines))
            cells = [column.take(np.arange(table.rows)).texts() for column in table.columns]
            found = [["" if cell is None else cell for cell in row] for row in zip(*cells, strict=True)]
            assert found == expected, (dialect, oddity, lines == said)
