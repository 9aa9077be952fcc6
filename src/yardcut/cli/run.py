"""``yardcut run LIST``: run a list's cuts without the app."""

from __future__ import annotations

import contextlib
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yardcut.cli.days import DAY
from yardcut.cli.saying import say
from yardcut.cli.working import STRICT_EXIT, named_sources, no_dials, say_line, say_source, with_progress
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.run.report import Report
    from yardcut.core.session import Session


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="Run this cut only.")
@click.option("--source", "sources", multiple=True, help="Read this file in place of the list's source.")
@click.option("--out", type=click.Path(path_type=Path), help="Write here in place of the last save line.")
@click.option("--set", "settings", multiple=True, metavar="DIAL=VALUE", help="Set a dial.")
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
@click.option("--replace", is_flag=True, help="Allow a target that exists to be replaced.")
@click.option("--report", "report_path", type=click.Path(path_type=Path), help="Write the report here, as JSON.")
@click.option("--against", type=click.Path(path_type=Path), help="Compare with this report in place of the last run's.")
@click.option(
    "--strict",
    is_flag=True,
    help="End with code 3 when the source differs from the last run's, or a file or all rows are left out.",
)
def run(
    list_path: Path, name: str | None, sources: tuple[str, ...], out: Path | None, settings: tuple[str, ...],
    replace: bool, report_path: Path | None, against: Path | None, strict: bool,
    today: int | None,
) -> None:  # fmt: skip
    """Run the cuts of LIST that have a save line, or the only cut, or the one named.

    Each line's rows in and out go to standard error. A cut without a save line writes CSV to standard output.
    """
    from yardcut.core import running
    from yardcut.core.errors import ListError, Mend
    from yardcut.core.session import Session
    from yardcut.core.writers.targets import RunOptions, targets_of

    no_dials(settings)
    session = Session.from_list(list_path)
    session.today = today
    if sources:
        session.read_instead(named_sources(sources))
    earlier = running.read_report(against) if against else None

    def work(token: CancelToken, progress: Progress) -> list[Report]:
        indices = running.cuts_to_run(session, name)
        if len(indices) > 1 and out is not None:
            raise ListError("--out stands for one cut's target", mend=Mend("name the cut with --cut"))
        say_source(session.open(token, progress))
        for index in indices:
            running.check_cut(session, session.cut_list.cuts[index])
        options = RunOptions(out, replace, list_path.parent)
        for index in indices:
            for target in targets_of(session.cut_list.cuts[index], options).values():
                if target.is_outside:
                    say(f"! {target.sentence()}")
        return [running.run_cut(session, index, options, token, progress, say_line, sys.stdout) for index in indices]

    differ = False
    for report in with_progress(work):
        differ |= _say_report(session, report, earlier)
        if report_path is not None:
            running.write_report(report, report_path)
    if strict and differ:
        sys.exit(STRICT_EXIT)


def _say_report(session: Session, report: Report, earlier: dict[str, Any] | None) -> bool:
    """Say what is different from an earlier report, or from the last run's, and keep this one as the last."""
    from yardcut.core import running
    from yardcut.core.errors import SourceError, TargetError

    cut = session.cut_list.cuts[session.cut_list.cut_index(report.cut)]
    kept = running.last_report_path(session, cut)
    if earlier is None and kept.exists():
        # the last run's report is nobody's file: a damaged one is the same as none
        with contextlib.suppress(SourceError):
            earlier = running.read_report(kept)
    differences = running.differences(earlier, report) if earlier else []
    for difference in differences:
        say(f"since the last run {difference}")
    for note in report.notes:
        say(note)
    for warning in report.warnings:
        say(f"! {warning}")
    try:
        running.keep_report(report, kept)
    except TargetError as error:
        # the slice is written, and that is what was asked for
        say(f"! the next run has nothing to be compared with: {error}")
    return bool(differences or report.warnings)
