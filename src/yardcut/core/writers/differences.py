"""Writing what differs between two slices, a difference a row, as CSV."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence

from yardcut.core.outgoing import Outgoing


def write_differences(header: Sequence[str], rows: Iterable[Sequence[str | None]], out: Outgoing) -> None:
    """Write rows as they come, missing values as empty cells. Raises ``TargetError``; nothing half-written is left."""
    with out.opened() as beside, open(beside, "w", encoding="utf-8", errors="surrogateescape", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(header)
        writer.writerows(rows)
