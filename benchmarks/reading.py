"""Reading the text into the store beside pyarrow's own streaming read of the same file."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

from pyarrow import csv

from benchmarks.measuring import Measured, PeakMemory, compare
from yardcut.core.sources.opening_sources import open_table


def _stream(path: Path) -> int:
    rows = 0
    with csv.open_csv(path) as reader:
        for batch in reader:
            rows += batch.num_rows
    return rows


def _read_afresh(path: Path) -> int:
    before = os.environ.get("XDG_CACHE_HOME")
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        try:
            return open_table(path).rows
        finally:
            if before is None:
                del os.environ["XDG_CACHE_HOME"]
            else:
                os.environ["XDG_CACHE_HOME"] = before


def reading(path: Path) -> Iterator[Measured]:
    """Measure the whole reading, once each: it takes its ten seconds, and the file is in the page cache already."""
    _stream(path)
    yield compare(
        "text into columns", lambda: _read_afresh(path), "pyarrow open_csv", lambda: _stream(path), 1.3, tries=1
    )


def reading_memory(path: Path) -> str:
    """Measure the anonymous memory of reading, in this process."""
    with PeakMemory() as peak:
        _read_afresh(path)
    verdict = "holds" if peak.bytes <= 400e6 else "MISSES"
    return f"anonymous memory, reading {'':16} {peak.bytes / 1e6:6.0f} MB  {verdict} 400 MB"
