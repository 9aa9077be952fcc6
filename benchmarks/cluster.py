"""Two workers of one thread against one thread here, over a hundred million rows: seconds of each operation, in turns.

``python -m benchmarks.cluster``. Run with ``OMP_NUM_THREADS=1`` and ``YARDCUT_WORK_THREADS=1``, so that nothing else
uses a second processor.
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
from yardcut.core.outgoing import Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.rounds import Runner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.writers.targets import Target, write_target

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
TO_A_FILE = "order, all of it saved as CSV"


def seconds(runner: Runner, lines: list[str], spec: SourceSpec, target: Path | None = None) -> float:
    """Return how long lines take of which nothing is kept from before, and to save what they leave."""
    began = time.perf_counter()
    results = list(Executor(runner).run(Cut("", tuple(map(Line, lines)))))
    assert len(results) == len(lines)
    if target is not None:
        out, token = Target(target, replace=True), CancelToken()
        write_target(results[-1].frame, out, spec, Protected(), token, Progress(), lambda: "", runner)
    return time.perf_counter() - began


def print_line(name: str, most: float, found: list[tuple[float, float]]) -> None:
    """Print the medians of seconds here and there, and their ratio."""
    one, two = (statistics.median(each) for each in zip(*found, strict=True))
    print(f"{name:32} {one:6.2f} s {two:6.2f} s  {two / one:.2f} (at most {most})", flush=True)


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
            seconds(here, lines, spec), seconds(there, lines, spec)  # columns are stored, workers have them open
            print_line(name, most, [(seconds(here, lines, spec), seconds(there, lines, spec)) for _ in range(times)])
        most, lines = OPERATIONS["order"]
        target = Path(folder) / "slice.csv"
        both = [tuple(seconds(each, lines, spec, target) for each in (here, there)) for _ in range(min(times, 2))]
        print_line(TO_A_FILE, most, [(one, two) for one, two in both])
        print(there.traffic.sentence())


if __name__ == "__main__":
    main()
