"""``yardcut [SOURCE]``: open the app."""

from __future__ import annotations

from pathlib import Path

import click

from yardcut.cli.working import one_source
from yardcut.core.errors import ListError, Mend


@click.command("open")
@click.argument("sources", metavar="SOURCE", nargs=-1)
def open_app(sources: tuple[str, ...]) -> None:
    """Open SOURCE, a table or a cutting list, in the app."""
    if not sources:
        raise ListError("no source was named", mend=Mend("name a file, or try: yardcut demo"))
    run_app(one_source(sources))


def run_app(source: Path) -> None:
    """Run the app on a table or a list until the user leaves it."""
    from yardcut.core.sources.form import read_head

    read_head(source, 1)
    from yardcut.tui.app import YardCutApp

    YardCutApp(source).run()
