"""``yardcut explain LIST``: a cut in plain sentences, for somebody who asked for it."""

from __future__ import annotations

from pathlib import Path

import click

from yardcut.cli.completing import cuts_of, dials_of
from yardcut.cli.days import DAY
from yardcut.cli.working import dial_settings, named_sources, the_cut, with_progress
from yardcut.core.outgoing import Outgoing
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.telling.explained_forms import ENDINGS, Form

_SEED = 0
"""Of draws that name none: it is told, and is the same each time."""


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="This cut; needed where the list has several.", shell_complete=cuts_of)
@click.option(
    "--as",
    "form",
    type=click.Choice(list(map(str, Form))),
    help="The form; by default what --out ends in says, else text.",
)
@click.option("--out", type=click.Path(path_type=Path), help="Write it here in place of standard output.")
@click.option("--replace", "may_replace", is_flag=True, help="Allow a target that exists to be replaced.")
@click.option("--source", "sources", multiple=True, help="Read this file in place of the list's source.")
@click.option("--set", "settings", multiple=True, metavar="DIAL=VALUE", help="Set a dial.", shell_complete=dials_of)
@click.option("--today", type=DAY, help="The day CURRENT_DATE stands for, as 2031-03-01; by default that of now.")
def explain(
    list_path: Path, name: str | None, form: str | None, out: Path | None, may_replace: bool, sources: tuple[str, ...],
    settings: tuple[str, ...], today: int | None,
) -> None:  # fmt: skip
    """Tell in plain sentences what a cut of LIST does, with its counts, and why rows are gone. No save line runs."""
    from yardcut.core.run.telling.explanation import explain as explained
    from yardcut.core.run.telling.written import FORMS
    from yardcut.core.session import Session
    from yardcut.core.unattended import check_cut

    session = Session.from_list(list_path)
    session.today = today
    session.set_dials(dial_settings(settings))
    if sources:
        session.read_instead(named_sources(sources))
    cut = session.cut_list.cuts[the_cut(session, name)]
    target = None if out is None else Outgoing(out, session.protected, may_replace)
    if target is not None:
        target.check()
    told_as = form or (Form.TEXT if out is None else ENDINGS.get(out.suffix.lower(), Form.TEXT))

    def work(token: CancelToken, progress: Progress) -> str:
        session.open(token, progress)
        check_cut(session, cut)
        results = list(session.results(token, progress, cut=cut, seed=_SEED))
        assert session.executor is not None
        told = explained(cut, results, session.cut_list.dials, session.executor, session.spec.label, token)
        return FORMS[told_as](told)

    text = with_progress(work)
    if target is None:
        click.echo(text, nl=False)
    else:
        target.write(text.encode("utf-8", "surrogateescape"))
