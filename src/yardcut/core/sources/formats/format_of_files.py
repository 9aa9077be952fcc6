"""Choosing the reader of each file by its content, and opening all files of a source."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.form.delimited_form import read_head
from yardcut.core.sources.spec import SourceSpec

if TYPE_CHECKING:
    from yardcut.core.sources.formats.source_file import SourceFile

PARQUET, ARROW, ZIP, OLD_WORKBOOK, SQLITE = (
    b"PAR1", b"ARROW1", b"PK\x03\x04", b"\xd0\xcf\x11\xe0", b"SQLite format 3\x00",
)  # fmt: skip


def format_of_file(head: bytes) -> str:
    """Return the format of a file by its first (uncompressed) bytes."""
    if head.startswith(PARQUET):
        return "parquet"
    if head.startswith(ARROW):
        return "arrow"
    if head.startswith((ZIP, OLD_WORKBOOK)):
        return "workbook"
    if head.startswith(SQLITE):
        return "sqlite"
    start = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"{") and (b'"' in start[:200] or start[1:2] == b"}"):
        return "json"
    if start.startswith(b"[") and start[1:200].lstrip().startswith((b"{", b"]")):
        return "json"
    return "delimited"


def open_file(path: Path, spec: SourceSpec, token: CancelToken) -> list[SourceFile]:
    """Open one file: a workbook or a database may hold several tables. Raises ``SourceError``."""
    match format_of_file(read_head(path, 1 << 12)):
        case "parquet":
            from yardcut.core.sources.formats.parquet import ParquetTable

            return [ParquetTable(path, spec)]
        case "arrow":
            from yardcut.core.sources.formats.arrow import ArrowTable

            return [ArrowTable(path, spec)]
        case "json":
            from yardcut.core.sources.formats.json_records import JsonFile

            return [JsonFile(path, spec)]
        case "workbook":
            from yardcut.core.sources.formats.workbook import worksheets

            return list(worksheets(path, spec, token))
        case "sqlite":
            from yardcut.core.sources.formats.sqlite import database_tables

            return list(database_tables(path, spec, token))
    from yardcut.core.sources.formats.delimited import DelimitedFile

    return [DelimitedFile(path, spec)]


def open_files(paths: Sequence[Path], spec: SourceSpec, token: CancelToken) -> tuple[list[SourceFile], list[str]]:
    """Open all files of a source; those met by a pattern that cannot be are named, each keeping its place.

    Raises ``SourceError`` when none can be, or one that is named outright cannot.
    """
    named = set(paths if len(paths) == 1 else spec.named(paths))
    found: list[SourceFile] = []
    left_out: list[str] = []
    for number, path in enumerate(paths):
        try:
            for file in open_file(path, spec, token):
                file.number = number
                found.append(file)
        except SourceError as error:
            if path in named:
                raise
            left_out.append(f"left out {path.name}: {error}")
    if not found:
        raise SourceError("none of the files can be read: " + "; ".join(left_out))
    return found, left_out
