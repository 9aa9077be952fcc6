"""``yardcut [SOURCE]``: open the app."""

from __future__ import annotations

import sys
from typing import TYPE_CHECKING

import click

from yardcut.cli.working import named_sources
from yardcut.core.errors import ListError, Mend

if TYPE_CHECKING:
    from yardcut.core.sources.spec import SourceSpec


@click.command("open")
@click.argument("sources", metavar="SOURCE", nargs=-1)
def open_app(sources: tuple[str, ...]) -> None:
    """Open SOURCE, a table or a cutting list, in the app."""
    if not sources:
        raise ListError("no source was named", mend=Mend("name a file, or try: yardcut demo"))
    run_app(named_sources(sources))


def run_app(source: SourceSpec) -> None:
    """Run the app on a table or a list until the user leaves it."""
    from yardcut.tui.app import YardCutApp
    from yardcut.tui.opening import Opening

    app = YardCutApp(Opening(source))
    app.run()
    if app.return_code:
        sys.exit(app.return_code)
