"""A table mapped from a column store on disk."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from yardcut.core.table.column import Column, ColumnInfo
from yardcut.core.values.kinds import Kind

MANIFEST = "manifest.json"
FORMAT = 3
"""Raised whenever the files of a store change their meaning; an older store is then built anew."""


@dataclass(frozen=True, slots=True)
class TableInfo:
    """The manifest of a store: what was read, from what, and what was met on the way.

    ``fingerprint`` identifies the source's content; ``form`` holds the delimited form (delimiter, decimal mark,
    encoding) or ``{}``; ``passed_over`` counts blank rows and rows with a wrong number of cells.
    """

    source_path: str
    fingerprint: str
    rows: int
    columns: tuple[ColumnInfo, ...]
    form: dict[str, Any]
    blank_rows: int = 0
    unfit_rows: int = 0


class Table:
    """Rows and columns of one source. Columns are numbered from 0 here, from 1 for users."""

    def __init__(self, info: TableInfo, folder: Path) -> None:
        self.info = info
        self.folder = folder
        self.columns: Sequence[Column] = [
            Column(column, folder, number, info.rows) for number, column in enumerate(info.columns)
        ]

    @property
    def rows(self) -> int:
        """The number of data rows."""
        return self.info.rows

    @property
    def fingerprint(self) -> str:
        """Identifies the source's content."""
        return self.info.fingerprint


def write_manifest(info: TableInfo, folder: Path) -> None:
    """Write a store's manifest; it is the last file of a store, so a store without one is not whole."""
    content = {"format": FORMAT, **asdict(info)}
    (folder / MANIFEST).write_text(json.dumps(content, ensure_ascii=False), encoding="utf-8")


def read_table(folder: Path) -> Table | None:
    """Map a store. Returns ``None`` when there is none, it is not whole, or another version wrote it."""
    try:
        content = json.loads((folder / MANIFEST).read_text(encoding="utf-8"))
        if content.pop("format") != FORMAT:
            return None
        content["columns"] = tuple(
            ColumnInfo(
                **{
                    **column,
                    "kind": Kind(column["kind"]),
                    "set_aside_texts": tuple((text, count) for text, count in column["set_aside_texts"]),
                }
            )
            for column in content["columns"]
        )
        return Table(TableInfo(**content), folder)
    except (OSError, ValueError, KeyError, TypeError):
        return None
