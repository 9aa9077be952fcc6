"""``yardcut diff A B``: two slices, two lists, or a slice and its list, row by row and cell by cell."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yardcut.cli.days import DAY
from yardcut.cli.saying import plain
from yardcut.cli.working import STRICT_EXIT, named_sources, the_cut, with_progress
from yardcut.core.outgoing import Outgoing, Protected
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.run.looking.slices_apart import Apart, Change

_SEED = 0
"""Of draws that name none: the same for both sides."""
_SHOWN, _MOST_COLUMNS = 5, 12


@click.command()
@click.argument("here", metavar="A")
@click.argument("there", metavar="B")
@click.option(
    "--key",
    "keys",
    multiple=True,
    metavar="COLUMN",
    help="A column that tells the rows apart; several by naming it again.",
)
@click.option("--cut", "name", help="This cut of a list; needed where one has several.")
@click.option("--any-order", is_flag=True, help="Rows in another order are no difference.")
@click.option("--out", type=click.Path(path_type=Path), help="Write every difference here, as CSV.")
@click.option("--replace", "may_replace", is_flag=True, help="Allow a target that exists to be replaced.")
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
@click.option("-q", "--quiet", is_flag=True, help="Say nothing, and show no progress: the exit code tells.")
def diff(
    here: str, there: str, keys: tuple[str, ...], name: str | None, any_order: bool, out: Path | None,
    may_replace: bool, today: int | None, quiet: bool,
) -> None:  # fmt: skip
    """Compare A with B, each a table or a list that is run: rows only here, only there, and cells that changed.

    Rows are told by the columns of --key, or by the first column that does; where none does, whole rows are compared.
    Ends with 0 where they are the same, and with 3 where they differ.
    """
    from yardcut.core.run.looking.slices_apart import Slices
    from yardcut.core.writers.differences import write_differences

    def work(token: CancelToken, progress: Progress) -> tuple[Apart, list[Change]]:
        (one, protected), (other, more) = (_opened(path, name, today, token, progress) for path in (here, there))
        slices = Slices(one, other, keys, token, progress)
        shown: list[Change] = []
        if out is None:
            for change in slices.changes():
                _take(shown, change)
            return slices.apart, shown
        outgoing = Outgoing(out, Protected((*protected.files, *more.files)), may_replace)
        outgoing.check()

        def rows() -> Iterator[list[str | None]]:
            for change in slices.changes():
                _take(shown, change)
                yield [change.what, *change.key, change.column, change.here, change.there]

        write_differences(["difference", *(slices.apart.keys or ("row",)), "column", "here", "there"], rows(), outgoing)
        return slices.apart, shown

    apart, shown = with_progress(work, quiet=quiet)
    differs = not apart.is_same or not (apart.is_in_order or any_order)
    if not quiet:
        click.echo(plain_lines(here, there, apart, shown))
    sys.exit(STRICT_EXIT if differs else 0)


def _take(shown: list[Change], change: Change) -> None:
    """Keep a few of each kind."""
    if sum(each.what == change.what for each in shown) < _SHOWN:
        shown.append(change)


def _opened(
    named: str, name: str | None, today: int | None, token: CancelToken, progress: Progress
) -> tuple[Frame, Protected]:
    """Open a table, or run a list; returns the rows, and what must not be written over."""
    from yardcut.core.expressions.frame import source_frame
    from yardcut.core.session import LIST_SUFFIX, Session
    from yardcut.core.unattended import check_cut

    if not named.endswith(LIST_SUFFIX):
        session = Session(named_sources((named,)))
        return source_frame(session.open(token, progress)), session.protected
    session = Session.from_list(Path(named))
    session.today = today
    cut = session.cut_list.cuts[the_cut(session, name)]
    table = session.open(token, progress)
    check_cut(session, cut)
    results = list(session.results(token, progress, cut=cut, seed=_SEED))
    return (results[-1].frame if results else source_frame(table)), session.protected


def plain_lines(here: str, there: str, apart: Apart, shown: list[Change]) -> str:
    """Say what is different, and a few of the differences."""
    from yardcut.core.run.looking.slices_apart import CHANGED, ONLY_HERE, ONLY_THERE
    from yardcut.core.sources.elsewhere.addresses import without_secret

    here, there = without_secret(here), without_secret(there)
    by = f"rows told by {', '.join(apart.keys)}" if apart.keys else "whole rows: no column tells them apart"
    lines = [f"{here} beside {there}, {by}"]
    if apart.is_same:
        order = "" if apart.is_in_order else ", in another order"
        return plain(f"{lines[0]}: the same {apart.both:,} rows{order}")
    lines.append(
        f"  {apart.both:,} rows in both, {apart.only_here:,} only in {here}, {apart.only_there:,} only in {there}"
    )
    if not apart.is_in_order:
        lines.append("  those in both stand in another order")
    for names, path in ((apart.columns_here, here), (apart.columns_there, there)):
        if names:
            lines.append(f"  columns only in {path}: {', '.join(names)}")
    if apart.changed:
        counted = ", ".join(f"{name} {count:,}" for name, count in apart.cells.most_common(_MOST_COLUMNS))
        more = f" and {len(apart.cells) - _MOST_COLUMNS:,} more columns" if len(apart.cells) > _MOST_COLUMNS else ""
        lines.append(f"  {apart.changed:,} rows have other cells: {counted}{more}")
    titles = {CHANGED: "for example", ONLY_HERE: f"only in {here}", ONLY_THERE: f"only in {there}"}
    for what, title in titles.items():
        some = [change for change in shown if change.what == what]
        if some:
            lines.append(f"  {title}:")
            lines += [f"    {_said(change)}" for change in some]
    return "\n".join(map(plain, lines))


def _said(change: Change) -> str:
    key = " ".join(change.key)
    if not change.column:
        return key
    one, other = ("no value" if each is None else each for each in (change.here, change.there))
    return f"{key}  {change.column}: {one} → {other}"
