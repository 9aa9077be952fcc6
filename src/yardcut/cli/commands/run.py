"""``yardcut run LIST``: run a list's cuts without the app."""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yardcut.cli.clusters import CERTIFICATES, CLUSTER, check_options, opened_on, with_traffic
from yardcut.cli.completing import cuts_of, dials_of
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
from yardcut.core.outgoing import OF_THIS_RUN, Outgoing
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.run.explaining.report import LineReport, Report
    from yardcut.core.session import Session
    from yardcut.core.writers.targets import RunOptions


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="Run this cut only.", shell_complete=cuts_of)
@click.option("--source", "sources", multiple=True, help="Read this file in place of the list's source.")
@click.option(
    "--out", type=click.Path(path_type=Path),
    help="Write here in place of the last save line. A directory gets files of a million rows.",
)  # fmt: skip
@click.option(
    "--set", "settings", multiple=True, metavar="DIAL=VALUE", shell_complete=dials_of,
    help="Set a dial; twice gives a list, nothing empties it.",
)  # fmt: skip
@click.option(
    "--each", metavar="DIAL", shell_complete=dials_of,
    help="Run once for each value of a dial, each into a file of its own.",
)  # fmt: skip
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
@click.option("--replace", "may_replace", is_flag=True, help="Allow a target that exists to be replaced.")
@click.option(
    "--report",
    "report_path",
    type=click.Path(path_type=Path),
    help="Write the report here, as JSON; over one that is there with --replace.",
)
@click.option("--against", type=click.Path(path_type=Path), help="Compare with this report in place of the last run's.")
@click.option("-q", "--quiet", is_flag=True, help="Say warnings and errors only, and show no progress.")
@click.option(
    "--strict",
    is_flag=True,
    help="End with code 3 when the source differs from the last run's, or a file or all rows are left out.",
)
@click.option("--store", is_flag=True, help="Read and keep all of the source, also where some columns are enough.")
@click.option("--there", is_flag=True, help="Have the server that the source stands on carry out the first lines.")
@CLUSTER
@CERTIFICATES
@click.option("--to-server", is_flag=True, help="Allow save lines that write to a server or a bucket.")
def run(
    list_path: Path, name: str | None, sources: tuple[str, ...], out: Path | None, settings: tuple[str, ...],
    each: str | None, may_replace: bool, report_path: Path | None, against: Path | None, strict: bool,
    today: int | None, there: bool, to_server: bool, quiet: bool, cluster: str | None, cluster_tls: Path | None,
    store: bool,
) -> None:  # fmt: skip
    """Run the cuts of LIST that have a save line, or the only cut, or the one named.

    Each line's rows in and out go to standard error. A cut without a save line writes CSV to standard output.
    """
    from yardcut.core import unattended

    check_options(cluster, cluster_tls, there=there)
    session = _opened(list_path, out, sources, settings, today)
    earlier = unattended.read_report(against) if against else None
    told = say_nothing if quiet else say_line

    def work(token: CancelToken, progress: Progress) -> list[tuple[Path | None, Report]]:
        indices = _wanted(session, name, out)
        options = _options(session, list_path, out, may_replace=may_replace, quiet=quiet, to_server=to_server)
        if there:
            return [(report_path, _run_there(session, indices, options, report_path, token, progress, told))]
        if each is None and cluster is None:
            all_of_it = strict or store or report_path is not None or against is not None
            return _run_once(session, indices, options, report_path, token, progress, told, all_of_it=all_of_it)
        with opened_on(session, cluster, cluster_tls, token, progress) as (table, traffic):
            say_source(table)
            _check(session, indices)
            if each is not None:
                return _run_each(session, each, indices, options, report_path, token, progress, told)
            reports = _run_once(session, indices, options, report_path, token, progress, told, all_of_it=True)
            return with_traffic(reports, traffic)

    differ = False
    for place, report in with_progress(work, quiet=quiet):
        differ |= _say_report(session, report, earlier, is_last=each is None, quiet=quiet)
        _write_report(session, report, place, may_replace)
    if strict and differ:
        sys.exit(STRICT_EXIT)


def _check(session: Session, indices: Sequence[int]) -> None:
    from yardcut.core import unattended

    for index in indices:
        unattended.check_cut(session, session.cut_list.cuts[index])


def _run_once(
    session: Session, indices: Sequence[int], options: RunOptions, report_path: Path | None,
    token: CancelToken, progress: Progress, told: Callable[[LineReport], None], *, all_of_it: bool,
) -> list[tuple[Path | None, Report]]:  # fmt: skip
    """Run cuts on a source that may be open already; else no more of it is read than it takes."""
    from yardcut.core import unattended
    from yardcut.core.unattended.cutting_once import run_once

    options = _reported(session, options, report_path)
    _say_outside(session, indices, options)
    if session.table is not None:
        reports = unattended.run_cuts(session, indices, options, token, progress, told, sys.stdout)
    else:
        reports = run_once(
            session, indices, options, token, progress, told, say_source, sys.stdout, all_of_it=all_of_it
        )
    return [(report_path, report) for report in reports]


def _options(
    session: Session, list_path: Path, out: Path | None, *, may_replace: bool, quiet: bool, to_server: bool
) -> RunOptions:
    from yardcut.core.writers.targets import RunOptions

    return RunOptions(out, may_replace, list_path.parent, _names(session), with_hints=not quiet, to_server=to_server)


def _run_there(
    session: Session, indices: Sequence[int], options: RunOptions, report_path: Path | None,
    token: CancelToken, progress: Progress, told: Callable[[LineReport], None],
) -> Report:  # fmt: skip
    """Run a cut with its first lines carried out by the server. Raises ``ListError`` where that is not for one cut."""
    from yardcut.core import unattended
    from yardcut.core.errors import ListError, Mend
    from yardcut.core.unattended.running_there import correct_totals, open_there

    if len(indices) != 1:
        raise ListError("--there runs one cut", mend=Mend("name it with --cut"))
    cut = session.cut_list.cuts[indices[0]]
    there = open_there(session, cut, token, progress)
    session.use(there.table)
    say_source(there.table)
    options = replace(_reported(session, options, report_path), ran_elsewhere=there.off)
    unattended.check_cut(session, options.left_of(cut))
    _say_outside(session, indices, options)
    report = unattended.run_cut(session, indices[0], options, token, progress, there.corrected(told, cut), sys.stdout)
    correct_totals(report, there)
    return report


def _opened(
    list_path: Path, out: Path | None, sources: tuple[str, ...], settings: tuple[str, ...], today: int | None
) -> Session:
    """Open a list, perhaps to read other sources in its place, with its dials set."""
    from yardcut.core.sources.elsewhere.standing import let_be_read_anew

    session = _list_of(list_path, out)
    if sources:
        session.read_instead(named_sources(sources, may_grow=True))
    let_be_read_anew(session.spec)
    session.today = today
    session.set_dials(dial_settings(settings))
    return session


def _list_of(list_path: Path, out: Path | None) -> Session:
    """Return a list, or the one that a slice remembers, which writes where it is told and nowhere else."""
    from yardcut.core.errors import ListError, Mend
    from yardcut.core.session import Session
    from yardcut.core.writers.carried_lists import carries

    if not carries(list_path):
        return Session.from_list(list_path)
    if out is None:
        raise ListError(f"{list_path} is a slice, and its list writes nothing by itself", mend=Mend("give it --out"))
    return Session.from_slice(list_path)


def _wanted(session: Session, name: str | None, out: Path | None) -> list[int]:
    """Return the places of the cuts to run. Raises ``ListError`` where one target stands for several."""
    from yardcut.core import unattended
    from yardcut.core.errors import ListError, Mend

    indices = unattended.cuts_to_run(session, name)
    if len(indices) > 1 and out is not None:
        raise ListError("--out stands for one cut's target", mend=Mend("name the cut with --cut"))
    return list(indices)


def _write_report(session: Session, report: Report, place: Path | None, may_replace: bool) -> None:
    from yardcut.core import unattended

    if place is not None:
        unattended.write_report(report, Outgoing(place, session.protected, may_replace, private=True))


def _reported(session: Session, options: RunOptions, report_path: Path | None) -> RunOptions:
    """Return what a run is told, with where its report goes, which is looked at before anything runs."""
    if report_path is None:
        return options
    Outgoing(report_path, session.protected.more(options.written, OF_THIS_RUN), options.replace).check()
    return replace(options, reports=(report_path,))


def _names(session: Session) -> dict[str, str]:
    """Return what stands in the places ``{dial}`` of paths: the value of each dial that holds one."""
    from yardcut.core.language.meaning.dials_put_in import held_text
    from yardcut.core.writers.parting import file_name_of

    held = {dial.name: held_text(dial) for dial in session.cut_list.dials}
    return {name: file_name_of(text) for name, text in held.items() if text is not None}


def _say_outside(session: Session, indices: Sequence[int], options: RunOptions) -> None:
    from yardcut.core.writers.targets import targets_of

    for index in indices:
        for target in targets_of(session.cut_list.cuts[index], options).values():
            if target.is_outside:
                say(f"! {target.sentence()}")


def _run_each(
    session: Session, dial: str, indices: Sequence[int], options: RunOptions, report_path: Path | None,
    token: CancelToken, progress: Progress, told: Callable[[LineReport], None],
) -> list[tuple[Path | None, Report]]:  # fmt: skip
    """Run the cuts once for every value of a dial; returns each report with where it is written."""
    from yardcut.core import unattended

    found: list[tuple[Path | None, Report]] = []
    written: list[Path] = []
    for value, place, per_value in _each(session, dial, indices, options, report_path, token, progress):
        if told is not say_nothing:
            say(f"{dial} = {value}")
        per_value = replace(_reported(session, per_value, place), written=tuple(written))
        _say_outside(session, indices, per_value)
        reports = list(unattended.run_cuts(session, indices, per_value, token, progress, told))
        found += [(place, report) for report in reports]
        written += [Path(path) for report in reports for path in report.files_written]
        written += per_value.reports
    return found


def _each(
    session: Session, dial: str, indices: Sequence[int], options: RunOptions, report_path: Path | None,
    token: CancelToken, progress: Progress,
) -> Iterator[tuple[str, Path | None, RunOptions]]:  # fmt: skip
    """Let a dial hold each of its values in turn; yields the value, where its report goes, and where its slice."""
    from yardcut.core.errors import ListError, Mend
    from yardcut.core.run.looking.values_for_dials import first_line_with, values_for_each
    from yardcut.core.writers.parting import distinct_names, filled

    cuts = session.cut_list.cuts
    using = [index for index in indices if first_line_with(dial, cuts[index]) is not None]
    if options.out is None and any(
        not any(line.verb == "save" and not line.is_off for line in cuts[index].lines) for index in indices
    ):
        raise ListError("--each writes a file for each value, and a cut has no save line", mend=Mend("give it --out"))
    assert session.executor is not None
    values = values_for_each(dial, session.cut_list, (using or indices)[0], session.executor, token, progress)
    for value, name in zip(values, distinct_names(list(values)), strict=True):
        session.set_dials({dial: [value]})
        place = None if report_path is None else filled(report_path, (dial,), (name,))
        names = {key: text for key, text in _names(session).items() if key != dial}
        yield value, place, replace(options, names=names, each=(dial, name))


def _say_report(
    session: Session, report: Report, earlier: dict[str, Any] | None, *, is_last: bool, quiet: bool
) -> bool:
    """Say what is different from an earlier report, or from the last run's, and keep this one as the last.

    One of several runs for the values of a dial is not compared: each meets other rows on purpose.
    """
    from yardcut.core import unattended
    from yardcut.core.errors import SourceError, TargetError

    cut = session.cut_list.cuts[session.cut_list.cut_index(report.cut)]
    kept = unattended.last_report_path(session, cut)
    if earlier is None and is_last and kept.exists():
        # the last run's report is nobody's file: a damaged one is the same as none
        with contextlib.suppress(SourceError):
            earlier = unattended.read_report(kept)
    differences = unattended.differences(earlier, report) if earlier else []
    for difference in differences:
        say(f"! since the last run {difference}")
    for note in [] if quiet else report.notes:
        say(note)
    for warning in report.warnings:
        say(f"! {warning}")
    if is_last:
        try:
            unattended.keep_report(report, kept)
        except TargetError as error:
            # the slice is written, and that is what was asked for
            say(f"! the next run has nothing to be compared with: {error}")
    for missing in report.not_there:
        say(f"! {missing}")
    return bool(differences or report.warnings or report.not_there)
