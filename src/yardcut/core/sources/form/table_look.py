"""A table of a file that holds several, before it is opened."""

from __future__ import annotations

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class TableLook:
    """A table before it is opened: its columns with their kinds as they seem, its first rows, ``None`` where missing.

    ``row_count`` is ``None`` where counting would take long.
    """

    names: tuple[str, ...]
    kinds: tuple[Kind, ...]
    rows: tuple[tuple[str | None, ...], ...]
    row_count: int | None
