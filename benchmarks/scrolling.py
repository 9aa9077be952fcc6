"""A page of scrolling: reading and drawing one screen of cells, without a terminal."""

from __future__ import annotations

import random
import statistics
from pathlib import Path

from benchmarks.measuring import Measured, seconds
from yardcut.core.progress import CancelToken
from yardcut.core.session import Session

_ROWS, _COLUMNS, _PAGES = 45, 14, 200


def scrolling(path: Path) -> Measured:
    """Measure the median page at random places of the table in the order of one line."""
    session = Session(path)
    session.open()
    session.edits.enter("order moisture_pct DESC", -1)
    frame = list(session.results(CancelToken()))[-1].frame
    chosen = random.Random(3)
    times = []
    for _ in range(_PAGES):
        first = chosen.randrange(frame.rows.count - _ROWS)
        times.append(seconds(lambda first=first: frame.page(first, first + _ROWS, range(_COLUMNS))))  # type: ignore[misc]
    return Measured("a page at a random place", statistics.median(times), 0.015, "the limit itself", 1.0)
