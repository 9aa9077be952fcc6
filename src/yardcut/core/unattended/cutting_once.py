"""Cutting one slice with no more of its source read than it takes."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from typing import IO

from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.explaining.report import LineReport, Report
from yardcut.core.session import Session
from yardcut.core.sources.elsewhere.standing import fetch_files, let_be_read_anew, told_as_called
from yardcut.core.sources.some_columns import NotReadError, Wanted
from yardcut.core.table.stored_table import Table
from yardcut.core.unattended.columns_enough import columns_enough
from yardcut.core.unattended.cutting_in_pieces import cut_in_pieces
from yardcut.core.unattended.rows_enough import rows_enough
from yardcut.core.unattended.running_cuts import run_cut, run_cuts
from yardcut.core.writers.targets import RunOptions


def cut_once(
    session: Session, options: RunOptions, token: CancelToken, progress: Progress, told: Callable[[LineReport], None],
    of_source: Callable[[Table], None], output: IO[str], *, all_of_it: bool,
) -> Report:  # fmt: skip
    """Open a source, say what must be known ``of_source``, and run the first cut of the list.

    The first rows alone are read where these are enough, or the columns that the cut looks at, or with ``all_of_it``
    everything; what comes through a pipe is written while it comes where it can be. Raises ``YardcutError``.
    """
    with told_as_called(session.spec):
        return _cut_once(session, options, token, progress, told, of_source, output, all_of_it=all_of_it)


def _cut_once(
    session: Session, options: RunOptions, token: CancelToken, progress: Progress, told: Callable[[LineReport], None],
    of_source: Callable[[Table], None], output: IO[str], *, all_of_it: bool,
) -> Report:  # fmt: skip
    cut = session.cut_list.cuts[0]
    let_be_read_anew(session.spec)
    fetch_files(session.spec, token, progress)
    rows = None if all_of_it else rows_enough(cut, session.spec, options.out)
    if rows is None and not all_of_it:
        report = cut_in_pieces(session, options, token, progress, told, of_source, output)
        if report is not None:
            return report
    if rows is None:
        return run_once(session, [0], options, token, progress, told, of_source, output, all_of_it=all_of_it)[0]
    of_source(session.open(token, progress, first_rows=rows))
    return run_cut(session, 0, options, token, progress, told, output)


def run_once(
    session: Session, indices: Sequence[int], options: RunOptions, token: CancelToken, progress: Progress,
    told: Callable[[LineReport], None], of_source: Callable[[Table], None], output: IO[str], *, all_of_it: bool,
) -> list[Report]:  # fmt: skip
    """Open a source, say what must be known ``of_source``, and run some cuts of the list.

    The columns that its lines name alone are read where these are enough, or with ``all_of_it`` everything.
    Raises ``YardcutError``.
    """
    fetch_files(session.spec, token, progress)
    cuts = [session.cut_list.cuts[index] for index in indices]
    columns = None if all_of_it else columns_enough(session.cut_list, cuts, session.spec, options.out)
    if columns is not None:
        # of a column that was left unread nobody knows the kind: what is wrong may be right
        with contextlib.suppress(NotReadError, ListError):
            return _of_columns(session, indices, columns, options, token, progress, told, of_source, output)
    of_source(session.open(token, progress))
    return run_cuts(session, indices, options, token, progress, told, output)


def _of_columns(
    session: Session, indices: Sequence[int], wanted: Wanted, options: RunOptions, token: CancelToken,
    progress: Progress, told: Callable[[LineReport], None], of_source: Callable[[Table], None], output: IO[str],
) -> list[Report]:  # fmt: skip
    """Run them on the columns they look at; what is said comes last, since all may have to be done again."""
    table = session.open(token, progress, wanted=wanted)
    lines: list[LineReport] = []
    reports = run_cuts(session, indices, options, token, progress, lines.append, output)
    of_source(table)
    for line in lines:
        told(line)
    return reports
