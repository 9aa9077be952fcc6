"""Running random lines by the package and by the reference, and comparing what is left."""

from __future__ import annotations

import csv
import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pyarrow as pa
from pyarrow import parquet

from reference.functions import as_text
from reference.generating import COLUMNS, make_rows
from reference.generating_seconds import ASKED, LIST, SECOND, SecondGenerator
from reference.generating_tallies import TallyGenerator
from reference.kinds import Row
from reference.kinds import Table as PlainTable
from reference.lines import run
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import DeclaredKind, FormLine, KindLine, NoValueLine, Selector, SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

TODAY = dt.date(2031, 6, 15)
Left = tuple[list[str], list[tuple[int, ...]], list[list[Any]]]
"""Names of the columns, source rows in order, and values: texts, and numbers as numbers."""


def plain_table(rows: Sequence[dict[str, Any]]) -> PlainTable:
    """Return rows as the reference has them."""
    names = list(COLUMNS)
    found = [Row({at: row[name] for at, name in enumerate(names)}, number) for number, row in enumerate(rows, 1)]
    columns = [(name, at) for at, name in enumerate(names)]
    return PlainTable(found, columns, columns, dict(enumerate(COLUMNS.values())), TODAY)


def write_csv(rows: Sequence[dict[str, Any]], path: Path) -> None:
    """Write rows as a delimited file."""
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows([[as_text(row[name]) or "" for name in COLUMNS] for row in rows])


def write_parquet(rows: Sequence[dict[str, Any]], path: Path, group_rows: int) -> None:
    """Write rows as a Parquet file of groups of so many rows."""
    kinds = {"integer": pa.int64(), "number": pa.float64(), "text": pa.string(), "boolean": pa.bool_(),
             "date": pa.date32(), "timestamp": pa.timestamp("us"), "time": pa.time64("us")}  # fmt: skip
    columns = {name: pa.array([row[name] for row in rows], kinds[kind]) for name, kind in COLUMNS.items()}
    parquet.write_table(pa.table(columns), path, row_group_size=group_rows)


def our_table(path: Path) -> Table:
    """Open them, the kinds as they are meant whatever values the rows have."""
    kinds = tuple((Selector(name), DeclaredKind(Kind(kind))) for name, kind in COLUMNS.items())
    return open_table(SourceSpec((str(path),), (KindLine(None, kinds), NoValueLine(None, ("",)), FormLine(footer=0))))


def make_sources(folder: Path, count: int, seed: int) -> tuple[PlainTable, Table]:
    """Return the same random rows for both, with the second tables that stand in the folder."""
    rows = make_rows(count, seed)
    write_csv(rows, folder / f"rows-{seed}.csv")
    plain, second = plain_table(rows), make_rows(50, 99)
    write_csv(second, folder / SECOND)
    (folder / LIST).write_text("\n".join(ASKED) + "\n", "utf-8")
    plain.seconds = {f"{folder}/{SECOND}": plain_table(second), f"{folder}/{LIST}": ASKED}
    return plain, our_table(folder / f"rows-{seed}.csv")


def some_cut(seed: int, table: PlainTable) -> list[str]:
    """Return random lines with a tally, a value of the row's group, or a second table among them."""
    if seed % 3 == 0:
        (folder, *_) = (path.rpartition("/")[0] for path in table.seconds)
        return SecondGenerator(seed, folder).cut()
    tallies = TallyGenerator(seed)
    return tallies.cut() if seed % 3 == 1 else [tallies.of_a_group()]


def by_reference(lines: Sequence[str], table: PlainTable) -> Left:
    """Return what the reference leaves."""
    left = run(lines, table)
    names = [name for name, _ in left.shown]
    keys = [key for _, key in left.shown]
    return (
        names,
        [(row.source_row,) for row in left.rows],
        [[comparable(row.values[key]) for key in keys] for row in left.rows],
    )


def comparable(value: Any) -> Any:
    """Return a value as both are compared: numbers as numbers, anything else as text."""
    return value if isinstance(value, int | float) and not isinstance(value, bool) else as_text(value)


def by_package(lines: Sequence[str], executor: Executor, *, looked_at: bool = False) -> Left:
    """Return what the package leaves. Raises ``ListError``."""
    result: LineResult | None = None
    cut = Cut("", tuple(map(Line, lines)))
    days = (TODAY - dt.date(1970, 1, 1)).days
    results = list(executor.run(cut, today=days, default_seed=0))
    if len(results) < len(lines):
        from yardcut.core.run.executing.bound_lines import bind_cut

        raise bind_cut(cut, executor.runner.table, default_seed=0, today=days)[len(results)].error or ListError("?")
    result = results[-1]
    return of_frame(result)


def of_frame(result: LineResult) -> Left:
    """Return the rows and cells of a result."""
    frame = result.frame
    names = [column.name for column in frame.columns]
    ids = frame.rows.ids(0, frame.rows.count)
    rows: list[tuple[int, ...]] = [(int(row) + 1,) for row in frame.table.source_ids(ids)]
    page = frame.page(0, frame.rows.count, range(len(names)))
    cells = [list(map(_read(column.kind), texts)) for column, texts in zip(frame.columns, page.cells, strict=True)]
    return names, rows, [list(row) for row in zip(*cells, strict=True)] if names else [[] for _ in rows]


def _read(kind: Kind) -> Any:
    as_number = {Kind.INTEGER: int, Kind.NUMBER: float}.get(kind)
    return lambda text: text if text is None or as_number is None else as_number(text)


@dataclass(frozen=True)
class Difference:
    """Lines whose two results are not the same."""

    lines: tuple[str, ...]
    said: str


def difference(lines: Sequence[str], mine: Left, theirs: Left) -> Difference | None:
    """Say in what two results differ."""
    if mine == theirs:
        return None
    if mine[0] != theirs[0]:
        said = f"columns {theirs[0]}, the reference {mine[0]}"
    elif mine[1] != theirs[1]:
        said = f"rows {theirs[1][:12]}, the reference {mine[1][:12]}"
    else:
        row, column = next(
            (r, c) for r, cells in enumerate(mine[2]) for c, cell in enumerate(cells) if cell != theirs[2][r][c]
        )
        said = (
            f"row {mine[1][row]}, {mine[0][column]}: {theirs[2][row][column]!r}, the reference {mine[2][row][column]!r}"
        )
    return Difference(tuple(lines), said)
