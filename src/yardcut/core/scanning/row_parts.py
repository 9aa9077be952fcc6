"""Parts of a source: what one task looks at. Identity is (file number, row in the file), and always the last key."""

from __future__ import annotations

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.stored_table import Table

BLOCK_ROWS = 1 << 16
"""Parts begin at a multiple of this many rows, so that sums over blocks do not depend on how the work is cut."""

PART_ROWS = 1 << 19
"""Rows of a part on one machine: long enough for numpy, short enough to be stopped within 50 ms."""


@dataclass(frozen=True, slots=True)
class Part:
    """Rows ``first_row`` to ``first_row + rows`` of one file; ``fingerprint`` is that of its content."""

    file_number: int
    path: str
    first_row: int
    rows: int
    fingerprint: str

    @property
    def end_row(self) -> int:
        """The row behind the last."""
        return self.first_row + self.rows


def parts_of(table: Table, part_rows: int = PART_ROWS) -> list[Part]:
    """Cut a table into parts of ``part_rows`` rows (a multiple of ``BLOCK_ROWS``), the last one shorter.

    A table without rows is one empty part.
    """
    assert part_rows % BLOCK_ROWS == 0
    starts = range(0, max(table.rows, 1), part_rows)
    return [
        Part(0, str(table.folder), start, min(part_rows, table.rows - start), table.fingerprint) for start in starts
    ]
