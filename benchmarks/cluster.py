"""Two workers of one thread against one thread here, over a hundred million rows: seconds of each operation, in turns.

``python -m benchmarks.cluster``. Run with ``OMP_NUM_THREADS=1``, so that nothing else uses a second processor.
"""

from __future__ import annotations

import statistics
import tempfile
import time
from pathlib import Path

import click

from benchmarks.scale import parquet_file
from yardcut.core.cluster.cluster_runner import ClusterRunner
from yardcut.core.cluster.connecting import LOCAL, connected
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.rounds import Runner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec

OPERATIONS = {
    "count and condition": (
        0.6, ["keep species = 'oak' AND moisture_pct < 18 OR price_per_m3 > 400", "tally COUNT(*)"],
    ),
    "sample": (0.6, ["draw random 100000 seed 7"]),
    "strata": (0.6, ["draw stratified 100000 per species seed 7"]),
    "top 1,000": (0.7, ["draw top 1000 by price_per_m3"]),
    "tally": (0.65, ["tally COUNT(*) AS packs, SUM(volume_m3) AS volume per species, grade"]),
    "order": (0.75, ["order price_per_m3 desc, boards"]),
}  # fmt: skip
"""For each operation what two workers may take of the time of one thread, and its lines."""


def seconds(runner: Runner, lines: list[str]) -> float:
    """Return how long lines take of which nothing is kept from before."""
    began = time.perf_counter()
    results = list(Executor(runner).run(Cut("", tuple(map(Line, lines)))))
    assert len(results) == len(lines)
    return time.perf_counter() - began


@click.command()
@click.option("--files", default=10, help="How many times ten million rows.")
@click.option("--times", default=3)
def main(files: int, times: int) -> None:
    """Print a line for each operation: medians, their ratio, and what is asked of it."""
    with tempfile.TemporaryDirectory() as folder, connected(LOCAL) as cluster:
        for number in range(files):
            (Path(folder) / f"packs_{number:02}.parquet").symlink_to(parquet_file(10_000_000))
        spec = SourceSpec.of(Path(folder) / "*.parquet")
        table = open_table(spec)
        here, there = LocalRunner(table, threads=1), ClusterRunner(cluster, spec, table)
        for name, (most, lines) in OPERATIONS.items():
            seconds(here, lines), seconds(there, lines)  # columns are stored, workers have them open
            found = [(seconds(here, lines), seconds(there, lines)) for _ in range(times)]
            one, two = (statistics.median(each) for each in zip(*found, strict=True))
            print(f"{name:20} {one:6.2f} s {two:6.2f} s  {two / one:.2f} (at most {most})", flush=True)
        print(there.traffic.sentence())


if __name__ == "__main__":
    main()
