"""A page of scrolling: reading and drawing one screen of cells, without a terminal."""

from __future__ import annotations

import random
import statistics
from pathlib import Path

from benchmarks.measuring import Measured, seconds
from yardcut.core.cutlist.model import Line
from yardcut.tui.bench import Bench

_ROWS, _COLUMNS, _PAGES = 45, 14, 200


def scrolling(path: Path) -> Measured:
    """Measure the median page at random places of the table in the order of one line."""
    bench = Bench(path)
    bench.session.open()
    bench.session.enter(Line("order moisture_pct DESC").text, -1)
    from yardcut.core.progress import CancelToken, Progress

    bench.results = bench.run(CancelToken(), Progress(), lambda result: None)
    source = bench.grid(0)
    assert source is not None
    chosen = random.Random(3)
    times = []
    for _ in range(_PAGES):
        first = chosen.randrange(source.row_count - _ROWS)
        times.append(seconds(lambda first=first: source.page(first, first + _ROWS, range(_COLUMNS))))  # type: ignore[misc]
    return Measured("a page at a random place", statistics.median(times), 0.015, "the limit itself", 1.0)
