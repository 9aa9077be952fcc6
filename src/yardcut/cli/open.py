"""``yardcut [SOURCE]``: open the app."""

from __future__ import annotations

import sys
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


def run_app(path: Path) -> None:
    """Run the app on a table or a list until the user leaves it."""
    from yardcut.tui.app import YardCutApp
    from yardcut.tui.opening import Opening

    app = YardCutApp(Opening(path))
    app.run()
    if app.return_code:
        sys.exit(app.return_code)
