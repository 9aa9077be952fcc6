"""``yardcut check LIST``: parse and bind against the source, run nothing."""

from __future__ import annotations

from pathlib import Path

import click

from yardcut.cli.saying import plain
from yardcut.cli.working import say_source, with_progress


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
def check(list_path: Path) -> None:
    """Check every line of LIST against its source, run nothing, and say which files a run would write."""
    from yardcut.core.session import Session
    from yardcut.core.unattended import check_cut
    from yardcut.core.writers.targets import RunOptions, targets_of

    session = Session.from_list(list_path)
    say_source(with_progress(session.open))
    for cut in session.cut_list.cuts:
        later = check_cut(session, cut)
        if later:
            waiting = "1 line is" if later == 1 else f"{later} lines are"
            along = "the columns along a value are those of the rows"
            click.echo(plain(f'cut "{cut.name}": {waiting} looked at when it runs: {along}'))
    for cut in session.cut_list.cuts:
        for target in targets_of(cut, RunOptions(base=list_path.parent)).values():
            click.echo(plain(f'cut "{cut.name}" {target.sentence()}'))
    lines = sum(len(cut.lines) for cut in session.cut_list.cuts)
    click.echo(plain(f"{list_path}: {'1 line is' if lines == 1 else f'{lines} lines are'} right"))
