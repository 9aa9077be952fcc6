"""What is said wherever figures are of the first rows only, while the rest of a source is being read."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from yardcut.core.table.stored_table import Table


def so_far_said(table: Table | None) -> str:
    """Say of which rows figures are while a table is no more than the first of them; nothing when it is whole."""
    if table is None or table.share_read >= 1:
        return ""
    return ", ".join(filter(None, [f"so far, of the first {table.rows:,} rows", share_said(table)]))


def share_said(table: Table) -> str:
    """Say which part of its source a table holds; nothing where nobody knows how much there is."""
    if not table.share_read:
        return ""
    return f"{table.share_read:.0%}" if table.share_read >= 0.01 else "under 1%"


def labelled(label: str, table: Table) -> str:
    """Add to what names some rows that they are among the first only."""
    said = so_far_said(table)
    return f"{label}, {said}" if said else label
