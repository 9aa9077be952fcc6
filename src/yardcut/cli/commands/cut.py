"""``yardcut cut SOURCE -l LINE``: one cut, no app, no file."""

from __future__ import annotations

import dataclasses
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yardcut.cli.completing import lines_like
from yardcut.cli.days import DAY
from yardcut.cli.saying import say
from yardcut.cli.working import (
    STRICT_EXIT,
    dial_settings,
    named_sources,
    say_line,
    say_nothing,
    say_source,
    with_progress,
)
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.run.explaining.report import Report
    from yardcut.core.session import Session


@click.command()
@click.argument("sources", metavar="SOURCE", nargs=-1)
@click.option(
    "-l", "--line", "lines", multiple=True, help="A line of the cut; - reads lines from standard input.",
    shell_complete=lines_like,
)  # fmt: skip
@click.option(
    "--out", type=click.Path(path_type=Path),
    help="Write here; the ending says the format. A directory gets files of a million rows.",
)  # fmt: skip
@click.option("--set", "settings", multiple=True, metavar="DIAL=VALUE", help="Set a dial.")
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
@click.option("--replace", is_flag=True, help="Allow a target that exists to be replaced.")
@click.option("-q", "--quiet", is_flag=True, help="Say warnings and errors only, and show no progress.")
@click.option("--store", is_flag=True, help="Read and keep all of SOURCE, also where its first rows are enough.")
@click.option("--strict", is_flag=True, help="End with code 3 when a file is left out, or no row is left.")
def cut(
    sources: tuple[str, ...], lines: tuple[str, ...], out: Path | None, settings: tuple[str, ...], replace: bool,
    strict: bool, store: bool, today: int | None, quiet: bool,
) -> None:  # fmt: skip
    """Cut one slice out of SOURCE.

    Example: yardcut cut yard_2031.csv -l "drop bay = 'ALL BAYS'" -l "draw first 10" --out ten.csv
    """
    from yardcut.core.unattended.cutting_once import cut_once
    from yardcut.core.writers.targets import RunOptions

    session = _session(sources, [sys.stdin.read() if line == "-" else line for line in lines])
    session.today = today
    session.set_dials(dial_settings(settings))

    options = RunOptions(out, replace, with_hints=not quiet, to_server=True)
    told = say_nothing if quiet else say_line

    def work(token: CancelToken, progress: Progress) -> Report:
        return cut_once(session, options, token, progress, told, say_source, sys.stdout, all_of_it=strict or store)

    report = with_progress(work, quiet=quiet)
    for note in [] if quiet else report.notes:
        say(note)
    for warning in (*report.warnings, *report.not_there):
        say(f"! {warning}")
    if strict and (report.warnings or report.not_there):
        sys.exit(STRICT_EXIT)


def _session(sources: tuple[str, ...], texts: list[str]) -> Session:
    """Open a session on some sources, with the lines that were given: those of the source, dials, those of the cut."""
    from yardcut.core.cutlist.further_lines import of_sources
    from yardcut.core.cutlist.model import Cut, CutList, Line
    from yardcut.core.language.syntax.dial_lines import WORD as DIAL
    from yardcut.core.language.syntax.source_lines import FURTHER
    from yardcut.core.language.syntax.source_lines import WORDS as SUB_LINE_WORDS
    from yardcut.core.language.syntax.statements import split_statements
    from yardcut.core.session import Session

    statements = [raw for text in texts for raw in split_statements(text)[0]]
    dials = tuple(Line(raw.text, indent="") for raw in statements if raw.first_word == DIAL)
    made = tuple(Line(raw.text) for raw in statements if raw.first_word not in (*SUB_LINE_WORDS, DIAL, FURTHER))
    sub_lines, further = of_sources(statements)
    source = dataclasses.replace(named_sources(sources, may_grow=True), lines=sub_lines)
    return Session(source, CutList(source.files, sub_lines, (Cut("", made),), dial_lines=dials, further=further))
