"""Print our times beside their yardsticks, in one run:  make bench  (or with a smaller file:  --rows 1000000)."""

from __future__ import annotations

import sys

import click

from benchmarks.app import app_times
from benchmarks.data import ROWS, benchmark_file
from benchmarks.engine import memory, operations
from benchmarks.filtering import filtering
from benchmarks.on_demand import on_demand
from benchmarks.ordering import ordering
from benchmarks.profiling import profile, store_size
from benchmarks.reading import reading, reading_memory
from benchmarks.scrolling import scrolling
from benchmarks.second_tables import second_tables
from benchmarks.tallying import tallying
from benchmarks.wide import wide
from benchmarks.writing import writing


@click.command()
@click.option("--rows", default=ROWS, help="Rows of the benchmark file.")
@click.option(
    "--only",
    default="",
    help="Only some parts: r(eading) e(ngine) m(emory) p(rofile) s(crolling) (on) d(emand) a(pp) w(ide) f(iltering) "
    "(sa)v(ing) o(rdering) t(allying) (second ta)b(les).",
)
def main(rows: int, only: str) -> None:
    """Measure everything, or some parts."""
    sys.setswitchinterval(0.0005)  # as the command line does
    path = benchmark_file(rows)
    wanted = only or "rmepfsdawvotb"
    if "r" in wanted:
        click.echo(reading_memory(path))
        for measured in reading(path):
            click.echo(measured)
    from yardcut.core.sources.opening_sources import open_table

    table = open_table(path)
    if "m" in wanted:
        for line in memory(table):
            click.echo(line)
    if "e" in wanted:
        for measured in operations(table):
            click.echo(measured)
    if "v" in wanted:
        for measured in writing(table, path):
            click.echo(measured)
    if "o" in wanted:
        for measured in ordering(table, path):
            click.echo(measured)
    if "t" in wanted:
        for measured in tallying(table):
            click.echo(measured)
    if "b" in wanted:
        for told in second_tables(table):
            click.echo(told)
    if "f" in wanted:
        for measured in filtering(table):
            click.echo(measured)
    if "p" in wanted:
        click.echo(profile(table))
        click.echo(store_size(table, path))
    if "s" in wanted:
        click.echo(scrolling(path))
    if "d" in wanted:
        for measured in on_demand(path):
            click.echo(measured)
    if "a" in wanted:
        for measured in app_times(path):
            click.echo(measured)
    if "w" in wanted:
        for measured in wide():
            click.echo(measured)


if __name__ == "__main__":
    main()
