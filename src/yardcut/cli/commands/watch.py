"""``yardcut watch LIST``: the list is run when its source changes."""

from __future__ import annotations

import hashlib
import time
from pathlib import Path
from typing import TYPE_CHECKING

import click

from yardcut.cli.commands.run import run
from yardcut.cli.completing import cuts_of, dials_of
from yardcut.cli.saying import say

if TYPE_CHECKING:
    from yardcut.core.locks import FileLock
    from yardcut.core.session import Session
    from yardcut.core.sources.file_watch import FileWatch

_LOOK_SECONDS = 0.5
_STILL_LOOKS = 2
"""A file that is being written is looked at until it is the same so many times in turn."""


@click.command()
@click.argument("list_path", metavar="LIST", type=click.Path(path_type=Path))
@click.option("--cut", "name", help="Run this cut only.", shell_complete=cuts_of)
@click.option("--set", "settings", multiple=True, metavar="DIAL=VALUE", help="Set a dial.", shell_complete=dials_of)
@click.option(
    "--every", type=click.FloatRange(min=0.1), default=5.0, show_default=True, metavar="SECONDS",
    help="How often it looks.",
)  # fmt: skip
@click.option("--replace", "may_replace", is_flag=True, help="Allow targets that exist to be replaced.")
@click.option("--runs", type=click.IntRange(min=1), metavar="N", help="End after so many runs.")
@click.option("-q", "--quiet", is_flag=True, help="Say warnings and errors only, and show no progress.")
@click.pass_context
def watch(
    ctx: click.Context, list_path: Path, name: str | None, settings: tuple[str, ...], every: float, may_replace: bool,
    runs: int | None, quiet: bool,
) -> None:  # fmt: skip
    """Run LIST now, and again whenever a file of its source, or of a second table, changes or a new one comes.

    What differs from the run before is said. A run that fails is said too, and the next change is waited for. Only one
    watch of a list is at work at a time; ctrl+c ends it.
    """
    from yardcut.core.errors import Mend, SourceError, StoppedError, YardcutError
    from yardcut.core.session import Session
    from yardcut.core.sources.elsewhere.addresses import read_all_anew
    from yardcut.core.sources.elsewhere.standing import is_elsewhere

    lock, done = _alone(list_path), 0
    try:
        while True:
            session = Session.from_list(list_path)
            if is_elsewhere(session.spec):
                raise SourceError(
                    f"{session.spec.label} does not say when it changes", mend=Mend("run the list from a timer instead")
                )
            read_all_anew()  # a second table may stand elsewhere
            seen = _seen(session)
            try:
                ctx.invoke(run, list_path=list_path, name=name, settings=settings, may_replace=may_replace, quiet=quiet)
            except StoppedError:
                raise
            except YardcutError as error:
                say(f"yardcut: {error}")
            done += 1
            if runs is not None and done >= runs:
                return
            if not quiet:
                say(f"waiting for a change of {session.spec.label}")
            say(f"{time.strftime('%Y-%m-%d %H:%M:%S')}  {_change(seen, list_path, every)}")
    finally:
        lock.let_go()


def _alone(list_path: Path) -> FileLock:
    """Hold what another watch of the list would hold. Raises ``ListError`` where one does."""
    from yardcut.core.errors import ListError, Mend
    from yardcut.core.locks import hold
    from yardcut.core.state import state_folder

    key = hashlib.blake2b(str(list_path.resolve()).encode("utf-8", "surrogateescape"), digest_size=10).hexdigest()
    path = state_folder() / "watched" / f"{key}.lock"
    path.parent.mkdir(parents=True, exist_ok=True)
    lock = hold(path)
    if lock is None:
        raise ListError(f"{list_path} is watched already", mend=Mend("end the other watch first"))
    return lock


def _seen(session: Session) -> FileWatch:
    """Return a watch of the files as they are now."""
    from yardcut.core.cutlist.second_paths import second_files
    from yardcut.core.sources.file_watch import FileWatch

    seen = FileWatch()
    seen.begin(session.spec)
    seen.beside(second_files(session.cut_list))
    return seen


def _change(seen: FileWatch, list_path: Path, every: float) -> str:
    """Wait until something is another, and stands still; say what it is."""
    changed_at = _changed_at(list_path)
    while True:
        time.sleep(every)
        said = seen.changed() or (f"{list_path.name} has changed" if _changed_at(list_path) != changed_at else "")
        if said:
            still, last = 0, seen.states()
            while still < _STILL_LOOKS:
                time.sleep(_LOOK_SECONDS)
                now = seen.states()
                still, last = (still + 1 if now == last else 0), now
            return said


def _changed_at(path: Path) -> int:
    try:
        return path.stat().st_mtime_ns
    except OSError:
        return 0
