"""One good file of each format, damaged at random: it is read as far as it can be, or refused in a sentence."""

from __future__ import annotations

import csv
import gzip
import io
import json
import random
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from reliability.command import run
from reliability.yard import COLUMNS, rows

_COUNT = 300


def _delimited(delimiter: str) -> Callable[[Path, list[list[str]]], None]:
    def write(path: Path, records: list[list[str]]) -> None:
        text = io.StringIO()
        csv.writer(text, delimiter=delimiter, lineterminator="\n").writerows([COLUMNS, *records])
        path.write_text(text.getvalue(), encoding="utf-8")

    return write


def _zipped(path: Path, records: list[list[str]]) -> None:
    _delimited(",")(path, records)
    path.write_bytes(gzip.compress(path.read_bytes()))


def _array(path: Path, records: list[list[str]]) -> None:
    path.write_text(json.dumps([dict(zip(COLUMNS, record, strict=True)) for record in records]), encoding="utf-8")


def _records(path: Path, records: list[list[str]]) -> None:
    lines = (json.dumps(dict(zip(COLUMNS, record, strict=True))) for record in records)
    path.write_text("\n".join(lines), encoding="utf-8")


def _database(path: Path, records: list[list[str]]) -> None:
    with closing(sqlite3.connect(path)) as database:
        database.execute(f"create table packs ({', '.join(COLUMNS)})")
        database.executemany(f"insert into packs values ({', '.join('?' * len(COLUMNS))})", records)
        database.commit()


def _columnar(path: Path, records: list[list[str]]) -> None:
    import pyarrow as pa
    from pyarrow import ipc, parquet

    table = pa.table({name: [record[place] for record in records] for place, name in enumerate(COLUMNS)})
    table = table.append_column("count", pa.array(range(len(records))))
    if path.suffix == ".parquet":
        parquet.write_table(table, path, row_group_size=100)
    else:
        with ipc.new_file(path, table.schema) as file:
            file.write_table(table, max_chunksize=100)


def _workbook(path: Path, records: list[list[str]]) -> None:
    from openpyxl import Workbook

    book = Workbook()
    for record in [list(COLUMNS), *records]:
        book.active.append(record)
    book.save(path)


FORMATS: dict[str, Callable[[Path, list[list[str]]], None]] = {
    "csv": _delimited(","), "tsv": _delimited("\t"), "csv.gz": _zipped, "json": _array, "jsonl": _records,
    "sqlite": _database, "parquet": _columnar, "arrow": _columnar, "xlsx": _workbook,
}  # fmt: skip


def turn(seed: int, folder: Path) -> str | None:
    """Damage a file and read it; then ask it for a slice."""
    rng = random.Random(seed)
    form = list(FORMATS)[seed % len(FORMATS)]
    path = folder / f"packs.{form}"
    FORMATS[form](path, rows(_COUNT, seed))
    path.write_bytes(damaged(rng, path.read_bytes()))
    for words in (["gauge", path.name], ["cut", path.name, "-l", "keep boards > 3", "-l", "order price"]):
        wrong = run(words, folder).wrong()
        if wrong is not None:
            return f"{words!r}: {wrong}"
    return None


def damaged(rng: random.Random, content: bytes) -> bytes:
    """Return a file's bytes with one to five things done to them."""
    found = bytearray(content)
    for _ in range(rng.randint(1, 5)):
        at = rng.randrange(len(found) + 1)
        size = rng.choice((1, 1, 2, 8, 64, 1000))
        match rng.randrange(6):
            case 0:
                del found[at:]
            case 1:
                del found[at : at + size]
            case 2:
                found[at : at + size] = bytes(size)
            case 3:
                found[at:at] = rng.randbytes(size)
            case 4:
                found[at : at + size] = rng.randbytes(min(size, len(found) - at))
            case _:
                found[at:at] = found[: rng.randrange(len(found) + 1)][-size * 10 :]
    return bytes(found)
