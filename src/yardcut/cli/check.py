"""``yardcut check LIST``: parse and bind against the source, run nothing."""

from __future__ import annotations

from pathlib import Path

import click

from yardcut.cli.working import say_source, with_progress


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
def check(list_path: Path) -> None:
    """Check every line of LIST against its source, and run nothing."""
    from yardcut.core.running import check_cut
    from yardcut.core.session import Session

    session = Session.from_list(list_path)
    say_source(with_progress(session.open))
    for cut in session.cut_list.cuts:
        check_cut(session, cut)
    lines = sum(len(cut.lines) for cut in session.cut_list.cuts)
    click.echo(f"{list_path}: {'1 line is' if lines == 1 else f'{lines} lines are'} right")
