"""Writing a column's values with their rows as a small table."""

from __future__ import annotations

import csv
from collections.abc import Iterable

from yardcut.core.outgoing import Outgoing


def write_value_counts(name: str, values: Iterable[tuple[str | None, int]], out: Outgoing) -> None:
    """Write (value, rows) pairs as CSV under the column's name; no value is an empty cell.

    Written beside the target and moved into place. Raises ``TargetError``.
    """
    with out.opened() as beside, open(beside, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow([name, "rows"])
        writer.writerows([text, count] for text, count in values)
