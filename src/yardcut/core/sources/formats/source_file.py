"""What the reader asks of one file of a source, whatever its format."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Protocol

from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnTask, ParsedBlock
from yardcut.core.values.kinds import Kind

Tasks = Callable[[], list[ColumnTask]]
"""Gives the columns that are wanted from here on; asked anew for each block."""


class SourceFile(Protocol):
    """One file, worksheet or table.

    ``names`` are its columns' after ``call`` lines; ``size`` is in bytes or rows; ``zones`` are those of columns of
    instants; ``number`` is the file's place in the source (several worksheets of one workbook each take the next place
    of their own); ``lost_codes`` are the places of columns in which ``NA`` was met as a text that means no value.
    """

    path: Path
    label: str
    number: int
    names: list[str]
    size: int
    marks: str
    form: dict[str, Any]
    zones: dict[str, str]
    lost_codes: set[int]

    def kinds(self) -> list[Kind | None]:
        """Return the columns' kinds as far as they are known beforehand: provisional, ``None`` for unknown."""

    def no_values(self) -> list[tuple[str, ...]]:
        """Return, for each column, the texts that mean a missing value."""

    def blocks(self, tasks: Tasks, token: CancelToken) -> Iterator[ParsedBlock]:
        """Yield the file's rows from first to last. Raises ``SourceError``, ``StoppedError`` or ``OSError``."""
