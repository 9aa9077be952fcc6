"""``yardcut [SOURCE]``: open the app."""

from __future__ import annotations

import dataclasses
import os
import sys
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yardcut.cli.clusters import CERTIFICATES, CLUSTER, check_options, runners_on
from yardcut.cli.ending import STOPPED_EXIT, end_if_told, end_when_told
from yardcut.cli.working import named_sources
from yardcut.core.errors import ListError, Mend, SourceError

if TYPE_CHECKING:
    from yardcut.core.errors import ClusterError
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.tui.app import YardCutApp


@click.command("open")
@click.argument("sources", metavar="SOURCE", nargs=-1)
@click.option("-l", "--line", "lines", multiple=True, help="A sub-line of the source, such as: table 'packs'")
@CLUSTER
@CERTIFICATES
def open_app(sources: tuple[str, ...], lines: tuple[str, ...], cluster: str | None, cluster_tls: Path | None) -> None:
    """Open SOURCE, a table, a stack of several, or a cutting list, in the app."""
    check_options(cluster, cluster_tls)
    if not sources:
        raise ListError("no source was named", mend=Mend("name a file, or try: yardcut demo"))
    source = named_sources(sources)
    if lines:
        from yardcut.core.language.syntax.source_lines import parse_sub_line

        source = dataclasses.replace(source, lines=tuple(map(parse_sub_line, lines)))
    run_app(source, cluster, cluster_tls)


def run_app(source: SourceSpec, cluster: str | None = None, certificates: Path | None = None) -> None:
    """Run the app on a table or a list until the user leaves it; a cluster may go over the rows."""
    from yardcut.tui.collecting import collect_later

    collect_later()
    from yardcut.core.settings.settings_in_force import settings
    from yardcut.tui.app import YardCutApp
    from yardcut.tui.in_force import in_force
    from yardcut.tui.opened_with import Opening

    opening: Opening | None = Opening(source)
    apps: list[YardCutApp] = []
    with runners_on(cluster, certificates, lambda error: apps[-1].lose_workers(_without(error))) as runners:
        while opening is not None:
            if not sys.stdin.isatty():
                _type_at_terminal()
            opening.runners = runners
            app = YardCutApp(opening, in_force(settings()))
            apps[:] = [app]
            end_when_told(partial(_leave, app))
            end_if_told()
            opening = app.run()
            if app.return_code:
                sys.exit(app.return_code)


def _without(error: ClusterError) -> str:
    return f"{error.message}: from now on this process goes over the rows"


def _leave(app: YardCutApp, number: int, frame: object) -> None:
    """Leave the app as its own key does, so that the terminal is as it was; the list is kept at every edit."""
    import asyncio

    try:
        loop = asyncio.get_running_loop()
    except RuntimeError:  # it has not begun, or is over
        app.told_to_leave = STOPPED_EXIT  # where this is not let through
        sys.exit(STOPPED_EXIT)
    loop.call_soon_threadsafe(app.leave, STOPPED_EXIT)


def _type_at_terminal() -> None:
    """Make the terminal standard input again, after a pipe was read from it to its end. Raises ``SourceError``."""
    try:
        terminal = os.open("/dev/tty", os.O_RDWR)
    except OSError as error:
        raise SourceError("the app needs a terminal", mend=Mend("without one, use: yardcut cut - -l '…'")) from error
    os.dup2(terminal, 0)
    os.close(terminal)
    sys.stdin = open(0, closefd=False, encoding="utf-8")  # noqa: SIM115 - it stays open as long as the app runs
