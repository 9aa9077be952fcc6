"""Choosing the reader of each file by its content, and opening all files of a source."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import SourceError
from yardcut.core.formats import Format, format_of, function
from yardcut.core.progress import CancelToken
from yardcut.core.sources.form.delimited_form import read_head
from yardcut.core.sources.spec import SourceSpec

if TYPE_CHECKING:
    from yardcut.core.sources.formats.source_file import SourceFile


def format_of_file(path: Path) -> Format:
    """Return the format of a file by its content. Raises ``SourceError``."""
    return format_of(read_head(path, 1 << 12))


def open_file(path: Path, spec: SourceSpec, token: CancelToken) -> list[SourceFile]:
    """Open one file: a workbook or a database may hold several tables. Raises ``SourceError``."""
    return list(function(format_of_file(path).read)(path, spec, token))


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
