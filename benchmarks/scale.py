"""How time, memory and disk grow with rows:  python -m benchmarks.scale  [--most 1000000000].

One Parquet file of ten million made-up packs stands under a hundred names, as a hundred files would: a thousand million
rows. Every figure is of a whole command of its own, of a source that nobody has opened before.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from dataclasses import asdict, dataclass
from pathlib import Path

import click

from benchmarks.data import ROWS, benchmark_file
from yardcut.core.outgoing import NOTHING, Outgoing
from yardcut.core.pictures.bar_data import Bars, Series
from yardcut.core.pictures.drawing_files import write_picture

OPERATIONS: dict[str, list[str]] = {
    "first rows": ["draw first 10"],
    "one condition": ["keep species = 'oak'", "tally COUNT(*)"],
    "six conditions": [
        "keep (species = 'oak' OR species = 'ash') AND moisture_pct < 18 AND length_mm >= 2400 AND grade <> 'D' "
        "AND price_per_m3 > 400",
        "tally COUNT(*)",
    ],
    "top 1,000": ["draw top 1000 by price_per_m3", "columns ticket, price_per_m3"],
    "top 3 of each bay": ["draw top 3 by price_per_m3 per bay", "columns ticket, bay, price_per_m3"],
    "stratified 100,000": ["draw stratified 100000 per species seed 7", "columns ticket, species"],
    "tally": ["tally COUNT(*) AS packs, SUM(volume_m3) AS volume per species, grade"],
    "1 % saved": ["draw chance 1 in 100 seed 7", "columns ticket, species, price_per_m3"],
}


@dataclass(frozen=True, slots=True)
class Figure:
    """What one command took: seconds, bytes of anonymous memory at most, bytes in the cache behind it."""

    operation: str
    rows: int
    seconds: float
    memory: int
    cache: int


def parquet_file(rows: int) -> Path:
    """Return a Parquet file of some of the packs, made when it is not there."""
    path = benchmark_file(ROWS).with_name(f"packs_{rows}.parquet")
    if not path.exists():
        partial = path.with_name(f"partial_{rows}.parquet")
        subprocess.run(
            [
                _yardcut(), "cut", str(benchmark_file(ROWS)), "-l", f"draw first {rows}", "--out", str(partial),
                "--replace",
            ],
            check=True, capture_output=True,
        )  # fmt: skip
        partial.rename(path)
    return path


def bars_of(figures: list[Figure]) -> Bars:
    """Return the seconds that ten million rows take at each size: equal bars where time grows as rows do."""
    sizes = sorted({figure.rows for figure in figures if figure.rows >= ROWS})
    taken = {(figure.operation, figure.rows): figure.seconds * ROWS / figure.rows for figure in figures}
    series = tuple(
        Series(
            f"of {rows // 10**6:,} million rows", tuple(taken[name, rows] for name in OPERATIONS),
            tuple(f"{taken[name, rows]:.2f}" for name in OPERATIONS),
        )
        for rows in sizes
    )  # fmt: skip
    return Bars(
        "Seconds for ten million rows", "seconds", tuple(OPERATIONS), series,
        "each a command of its own, Parquet that nobody has opened before, two processors",
    )  # fmt: skip


def _yardcut() -> str:
    return str(Path(sys.executable).with_name("yardcut"))


def measured(operation: str, source: str, rows: int, work: Path) -> Figure:
    """Run one operation as a command of its own."""
    cache = work / "cache"
    shutil.rmtree(cache / "yardcut" / "stores", ignore_errors=True)
    lines = [part for line in OPERATIONS[operation] for part in ("-l", line)]
    environment = {**os.environ, "XDG_CACHE_HOME": str(cache), "XDG_STATE_HOME": str(work / "state")}
    start, most = time.perf_counter(), 0
    with open(work / "out.csv", "wb") as out, subprocess.Popen(
        [_yardcut(), "cut", source, *lines], stdout=out, stderr=subprocess.PIPE, env=environment
    ) as process:  # fmt: skip
        while process.poll() is None:
            most = max(most, _anonymous(process.pid))
            time.sleep(0.02)
        assert process.stderr is not None
        if process.returncode:
            raise click.ClickException(process.stderr.read().decode())
    spent = time.perf_counter() - start
    kept = sum(path.stat().st_size for path in (cache / "yardcut" / "stores").rglob("*") if path.is_file())
    return Figure(operation, rows, spent, most, kept)


def _anonymous(process: int) -> int:
    try:
        lines = Path(f"/proc/{process}/status").read_text(encoding="ascii").splitlines()
    except OSError:
        return 0
    return sum(int(line.split()[1]) * 1024 for line in lines if line.startswith("RssAnon"))


@click.command()
@click.option("--most", default=10**9, help="Rows at most.")
@click.option("--only", default="", help="Only operations whose name has this in it.")
@click.option("--out", default=None, type=click.Path(path_type=Path), help="A JSON file for the figures.")
@click.option("--draw", default=None, type=click.Path(path_type=Path), help="Draw the figures of this JSON file (SVG).")
@click.option("--picture", default=Path("docs/scale.svg"), type=click.Path(path_type=Path), help="Where --draw goes.")
def main(most: int, only: str, out: Path | None, draw: Path | None, picture: Path) -> None:
    """Measure every operation at every size, or draw what was measured."""
    if draw is not None:
        write_picture(
            bars_of([Figure(**each) for each in json.loads(draw.read_text())]), Outgoing(picture, NOTHING, True)
        )
        return
    figures: list[Figure] = []
    for rows in (size for size in (10**5, 10**6, 10**7, 10**8, 10**9) if size <= most):
        with tempfile.TemporaryDirectory(dir=benchmark_file(ROWS).parent) as folder:
            work = Path(folder)
            for number in range(max(1, rows // ROWS)):
                (work / f"packs_{number:03}.parquet").symlink_to(parquet_file(min(rows, ROWS)))
            measured("first rows", str(work / "packs_*.parquet"), rows, work)  # what is kept of the language, once
            for operation in OPERATIONS:
                if only in operation:
                    figures.append(measured(operation, str(work / "packs_*.parquet"), rows, work))
                    said = figures[-1]
                    click.echo(
                        f"{said.operation:22} {rows:13,} rows {said.seconds:9.2f} s {said.memory / 1e6:8.0f} MB memory "
                        f"{said.cache / 1e6:9.0f} MB cache"
                    )
    if out is not None:
        out.write_text(json.dumps([asdict(figure) for figure in figures], indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
