"""What a source read again holds that it did not before."""

from __future__ import annotations

from yardcut.core.table.stored_table import Table
from yardcut.tui.text import plural


def differences(before: Table, now: Table) -> str:
    """Say how rows, columns and kinds differ."""
    rows = now.rows - before.rows
    said = [
        f"read again: {plural(now.rows, 'row')}"
        + (f", {abs(rows):,} {'more' if rows > 0 else 'fewer'}" if rows else "")
    ]
    old = {column.name: column.kind for column in before.columns}
    new = {column.name: column.kind for column in now.columns}
    for names, what in (
        ([name for name in new if name not in old], "new"),
        ([name for name in old if name not in new], "gone"),
    ):
        if names:
            said.append(f"{what}: {', '.join(names[:6])}" + (f" and {len(names) - 6} more" if len(names) > 6 else ""))
    changed = [f"{name} is {kind} now" for name, kind in new.items() if name in old and old[name] is not kind]
    said += changed[:6]
    return " · ".join(said)
