"""The formats a slice can be written in: how each is written, and how it is counted when it is read back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path
from typing import Any

from yardcut.core.expressions.frame import Frame
from yardcut.core.progress import CancelToken, Progress


@dataclass(frozen=True, slots=True)
class Format:
    """One format, in a module of this package that is loaded when it is needed.

    ``delimiter`` is that of delimited text, which alone can go into a pipe.
    """

    name: str
    endings: tuple[str, ...]
    module: str
    write_name: str
    count_name: str = "count_rows"
    delimiter: str = ""

    def write(self, piece: Frame, path: Path, token: CancelToken, progress: Progress) -> None:
        """Write a slice to a file. Raises ``OSError``, ``TargetError`` and ``StoppedError``."""
        given = (piece, path, self.delimiter, token, progress) if self.delimiter else (piece, path, token, progress)
        self._function(self.write_name)(*given)

    def count(self, path: Path) -> int:
        """Read a file back and count its rows."""
        return int(self._function(self.count_name)(*((path, self.delimiter) if self.delimiter else (path,))))

    def _function(self, name: str) -> Callable[..., Any]:
        found: Callable[..., Any] = getattr(import_module(f"yardcut.core.writers.{self.module}"), name)
        return found


FORMATS = {
    form.name: form
    for form in (
        Format("csv", (".csv",), "delimited", "write_delimited", delimiter=","),
        Format("tsv", (".tsv", ".tab"), "delimited", "write_delimited", delimiter="\t"),
        Format("parquet", (".parquet",), "parquet", "write_parquet"),
        Format("arrow", (".arrow", ".feather"), "arrow_file", "write_arrow"),
        Format("jsonl", (".jsonl", ".ndjson"), "json_rows", "write_lines", "count_lines"),
        Format("json", (".json",), "json_rows", "write_array", "count_items"),
        Format("xlsx", (".xlsx",), "workbook", "write_workbook"),
        Format("sqlite", (".sqlite", ".sqlite3", ".db"), "database", "write_database"),
    )
}
BY_ENDING = {ending: form.name for form in FORMATS.values() for ending in form.endings}


def named(names: str = "or") -> str:
    """Return the names of all formats in a sentence."""
    *most, last = FORMATS
    return f"{', '.join(most)} {names} {last}"
