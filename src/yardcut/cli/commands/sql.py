"""``yardcut sql LIST``: a cut as one statement of standard SQL."""

from __future__ import annotations

from pathlib import Path

import click

from yardcut.cli.completing import cuts_of, dials_of
from yardcut.cli.days import DAY
from yardcut.cli.working import dial_settings, named_sources, the_cut, with_progress
from yardcut.core.sql.dialects import DIALECTS


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
@click.option(
    "--for",
    "dialect",
    type=click.Choice(list(DIALECTS)),
    default="postgresql",
    show_default=True,
    help="The database it is written for.",
)
@click.option("--cut", "name", help="This cut; needed where the list has several.", shell_complete=cuts_of)
@click.option("--table", help="The table of the database; by default named after the source.")
@click.option("--set", "settings", multiple=True, metavar="DIAL=VALUE", help="Set a dial.", shell_complete=dials_of)
@click.option("--source", "sources", multiple=True, help="Read the columns' kinds from this file.")
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
def sql(
    list_path: Path, dialect: str, name: str | None, table: str | None, settings: tuple[str, ...],
    sources: tuple[str, ...], today: int | None,
) -> None:  # fmt: skip
    """Write a cut of LIST as one statement that gives the same rows where the source is a table of a database.

    What cannot be said in SQL so that it surely means the same, such as a draw by chance, is said to be so.
    """
    from yardcut.core.session import Session
    from yardcut.core.sql.statement import as_statement
    from yardcut.core.unattended import check_cut

    session = Session.from_list(list_path)
    session.today = today
    session.set_dials(dial_settings(settings))
    if sources:
        session.read_instead(named_sources(sources))
    cuts, index = [cut.name for cut in session.cut_list.cuts], the_cut(session, name)
    opened = with_progress(session.open)
    cut = session.cut_list.cuts[index]
    check_cut(session, cut)
    statement = as_statement(session.bound(cut), opened, table or session.spec.stem, dialect, cuts, index)
    click.echo(statement, nl=False)
