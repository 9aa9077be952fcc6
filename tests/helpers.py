"""Running lines on a table and reading back what is left."""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.private import private_folder
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

WriteTable = Callable[..., Table]


def shared_folder(name: str) -> Path:
    """Return a folder for what all tests of this user may have in common, whenever they run."""
    return Path(tempfile.gettempdir()) / f"yardcut-test-{name}-{os.getuid()}"


def take_grammars(caches: Path) -> None:
    """Have a new place of caches share the tables of grammars: making them takes a process two seconds."""
    shared, folder = shared_folder("grammars"), caches / "yardcut"
    private_folder(shared)
    private_folder(folder)
    (folder / "grammars").symlink_to(shared)


def run_lines(table: Table, *lines: str, parts: int = 1, threads: int = 2) -> list[LineResult]:
    """Run lines on a table cut into about ``parts`` parts; every line must be right."""
    blocks = max(1, -(-table.rows // BLOCK_ROWS))
    part_rows = -(-blocks // parts) * BLOCK_ROWS
    executor = Executor(LocalRunner(table, part_rows, threads))
    results = list(executor.run(Cut("", tuple(map(Line, lines)))))
    assert len(results) == len(lines), "a line was wrong"
    return results


def ids_left(table: Table, *lines: str, parts: int = 1) -> list[int]:
    """Return the row ids the last line leaves, in order."""
    rows = run_lines(table, *lines, parts=parts)[-1].rows
    return [int(row) for row in rows.ids(0, rows.count)]


def array_on_disk(folder: Path, number: int, part: str) -> tuple[Path, int, int]:
    """Return the file of a store that holds an array of a column, where it begins there, and its size in bytes."""
    content = json.loads((folder / "manifest.json").read_text())
    for name, size_bytes, _, pack, offset in content["columns"][number]["checks"]:
        if name == part:
            return folder / (pack or f"{number}.{part}"), offset, size_bytes
    raise LookupError(part)


def damage(folder: Path, number: int, part: str, at: int = -1) -> None:
    """Change one byte of an array of a store; ``at`` counts from its end where negative."""
    path, offset, size_bytes = array_on_disk(folder, number, part)
    content = bytearray(path.read_bytes())
    content[offset + (at if at >= 0 else size_bytes + at)] ^= 1
    path.write_bytes(content)


def scope_of(columns: Sequence[tuple[str, Kind]]) -> Scope:
    """Return a scope of columns given by name and kind."""
    return Scope.of_source(columns)


YARD_SCOPE = scope_of(
    [
        ("ticket", Kind.TEXT),
        ("species", Kind.TEXT),
        ("grade", Kind.TEXT),
        ("length_mm", Kind.INTEGER),
        ("price_per_m3", Kind.NUMBER),
        ("moisture_pct", Kind.NUMBER),
        ("moisture_d01", Kind.NUMBER),
        ("moisture_d02", Kind.NUMBER),
        ("felled_on", Kind.DATE),
        ("kiln_in", Kind.TIMESTAMP),
        ("reserved", Kind.BOOLEAN),
        ("invoice no", Kind.INTEGER),
    ]
)


def is_usual(observed: Array, expected: Array, freedom: int) -> bool:
    """Pearson's chi-square test at about 1 in 10,000, its limit by Wilson and Hilferty (1931)."""
    statistic = float(((observed - expected) ** 2 / expected).sum())
    spread = 2 / (9 * freedom)
    return statistic < freedom * (1 - spread + 3.72 * spread**0.5) ** 3
