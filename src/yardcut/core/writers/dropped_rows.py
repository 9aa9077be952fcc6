"""Saving the rows that were dropped while reading: as a table with their places, or as they stood."""

from __future__ import annotations

import csv
from pathlib import Path

from yardcut.core.errors import Mend, TargetError
from yardcut.core.sources.dropped import read_dropped


def write_dropped(folder: Path, path: Path) -> int:
    """Write the dropped rows of a store; ``.txt`` holds the rows alone, anything else CSV. Returns how many.

    Written beside the target and moved into place. Raises ``TargetError``.
    """
    beside = path.with_name(f".{path.name}.part")
    rows = 0
    try:
        with open(beside, "w", encoding="utf-8", newline="") as file:
            writer = csv.writer(file, lineterminator="\n")
            if path.suffix != ".txt":
                writer.writerow(["file", "line", "reason", "row"])
            for name, row in read_dropped(folder):
                if path.suffix == ".txt":
                    file.write(row.text + "\n")
                else:
                    writer.writerow([name, row.line, row.reason, row.text])
                rows += 1
        beside.replace(path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise TargetError(f"{path} cannot be written: {error.strerror}", mend=Mend("name another place")) from error
    return rows
