"""``yardcut gauge SOURCE``: what each column holds."""

from __future__ import annotations

import dataclasses
import json
from dataclasses import asdict

import click

from yardcut.cli.saying import plain
from yardcut.cli.working import named_sources, say_source, with_progress
from yardcut.core.progress import CancelToken, Progress

_MOST_CELLS = 32


@click.command()
@click.argument("sources", metavar="SOURCE", nargs=-1)
@click.option("-l", "--line", "lines", multiple=True, help="A sub-line of the source, such as: no value '--'")
@click.option("--json", "as_json", is_flag=True, help="Print as JSON.")
def gauge(sources: tuple[str, ...], lines: tuple[str, ...], as_json: bool) -> None:
    """Print what each column of SOURCE holds: kind, missing, distinct, quartiles, sum, average, commonest values."""
    from yardcut.core.expressions.frame import source_frame
    from yardcut.core.language.syntax.source_lines import parse_sub_line
    from yardcut.core.profile.summary import Summary, summarise
    from yardcut.core.session import Session

    source = named_sources(sources)
    session = Session(dataclasses.replace(source, lines=tuple(map(parse_sub_line, lines))))

    def work(token: CancelToken, progress: Progress) -> list[Summary]:
        table = session.open(token, progress)
        say_source(table)
        assert session.executor is not None
        progress.begin("gauging", len(table.columns))
        found = []
        frame = source_frame(table)
        for column in frame.columns:
            found.append(summarise(column, frame.rows, session.executor.runner, token))
            progress.advance(1)
        return found

    summaries = with_progress(work)
    if as_json:
        click.echo(json.dumps([asdict(summary) for summary in summaries], ensure_ascii=False, indent=1))
        return
    header = ("column", "kind", "missing", "distinct", "least", "quarter", "middle", "three quarters", "most", "sum",
              "average", "commonest")  # fmt: skip
    rows: list[tuple[str, ...]] = [header]
    rows += [
        (s.name, s.kind.value, f"{s.missing:,}", f"{'about ' * s.estimated}{s.distinct:,}", s.least or "",
         s.lower_quartile or "",
         s.median or "", s.upper_quartile or "", s.most or "", s.total or "", s.average or "",
         ", ".join(f"{text} {times:,}" for text, times in s.commonest[:3]))
        for s in summaries
    ]  # fmt: skip
    rows = [tuple(map(_short, row)) for row in rows]
    widths = [max(len(row[column]) for row in rows) for column in range(len(header))]
    for row in rows:
        click.echo("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def _short(cell: str) -> str:
    """Return a cell that fits; one that was cut says so."""
    text = plain(cell)
    return text if len(text) <= _MOST_CELLS else text[: _MOST_CELLS - 1] + "…"
