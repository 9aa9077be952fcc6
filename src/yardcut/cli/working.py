"""What the commands share: stopping on ctrl+c, progress on a terminal, reports on standard error."""

from __future__ import annotations

import os
import signal
import stat
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING, TypeVar

from yardcut.cli.ending import end_when_told
from yardcut.cli.saying import say, show_progress
from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.run.explaining.report import LineReport
    from yardcut.core.session import Session
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table

_Result = TypeVar("_Result")
_SAMPLE_SECONDS = 0.1
STRICT_EXIT = 3
"""The exit code of a run under ``--strict`` that met something else than it should."""
_PATIENCE_SECONDS = 0.7
"""How long work has to end by itself after ctrl+c."""


def with_progress(work: Callable[[CancelToken, Progress], _Result], *, quiet: bool = False) -> _Result:
    """Do work that can be stopped, by ctrl+c or by telling it to end, with a line of progress on a terminal."""
    token, progress = CancelToken(), Progress()

    def stop(number: int, frame: FrameType | None) -> None:
        token.cancel()
        patience.start()

    patience = threading.Timer(_PATIENCE_SECONDS, _stop_at_once)
    patience.daemon = True
    put_back = end_when_told(
        lambda number, frame: None if token.cancelled else stop(number, frame), also=(signal.SIGINT,)
    )
    done = threading.Event()
    display = threading.Thread(target=_display, args=(progress, done), daemon=True)
    if sys.stderr.isatty() and not quiet:
        display.start()
    try:
        return work(token, progress)
    finally:
        patience.cancel()
        done.set()
        if display.is_alive():
            display.join()
        put_back()


def _stop_at_once() -> None:
    """End though something is at work that cannot be asked to stop: a long sort, a wait for the other end of a pipe."""
    from yardcut.core import litter
    from yardcut.core.errors import StoppedError

    litter.drop_mine()
    say("yardcut: stopped", over_progress=True)
    os._exit(StoppedError.exit_code)


def _display(progress: Progress, done: threading.Event) -> None:
    shown = False
    while not done.wait(_SAMPLE_SECONDS):
        if progress.total or progress.rows:
            show_progress(progress.sentence())
            shown = True
    if shown:
        show_progress("")


def the_cut(session: Session, name: str | None) -> int:
    """Return the index of the cut named, or of the only one. Raises ``ListError``."""
    from yardcut.core.errors import ListError

    cuts = [cut.name for cut in session.cut_list.cuts]
    if name is not None:
        return session.cut_list.cut_index(name)
    if len(cuts) > 1:
        where = session.list_path or "the list"
        raise ListError(f"{where} has {len(cuts)} cuts", mend=Mend("name one with --cut: " + ", ".join(cuts)))
    return 0


def say_source(table: Table) -> None:
    """Say on standard error what a user must know of the source and of settings that do not count."""
    from yardcut.core.run.explaining.source_report import sentences
    from yardcut.core.settings.settings_in_force import settings
    from yardcut.core.sources.elsewhere.addresses import taken_out

    for trouble in (*settings().troubles, *taken_out()):
        say(f"! {trouble}")
    for sentence in sentences(table):
        say(f"! {sentence}")


def say_line(line: LineReport) -> None:
    """Print a line of the report to standard error."""
    say(line.sentence(), over_progress=True)


def say_nothing(line: LineReport) -> None:
    """Print nothing of a line."""


def named_sources(sources: tuple[str, ...], *, may_grow: bool = False) -> SourceSpec:
    """Return what the words of a command name: files, patterns, or ``-`` for standard input.

    What comes through a pipe is kept in a file first; with ``may_grow`` it still comes while the command goes on.
    """
    from yardcut.core.sources.spec import SourceSpec

    if not sources:
        raise SourceError("no source was named", mend=Mend("name a file"))
    return SourceSpec(tuple(_kept_if_piped(source, may_grow=may_grow) for source in sources))


def _kept_if_piped(name: str, *, may_grow: bool) -> str:
    """Return a source's name, or that of the file that standard input or a pipe was kept in."""
    from yardcut.core.sources.elsewhere.addresses import is_address, without_secret
    from yardcut.core.sources.spec import STANDARD_INPUT

    if is_address(name):
        return without_secret(name)
    if name != STANDARD_INPUT and not stat.S_ISFIFO(_mode_of(name)):
        return name
    from yardcut.core.sources import piped

    if name != STANDARD_INPUT:
        return str((piped.growing_pipe if may_grow else piped.kept_pipe)(Path(name)))
    return str((piped.growing_input if may_grow else piped.kept_input)(sys.stdin.buffer))


def _mode_of(name: str) -> int:
    try:
        return os.stat(name).st_mode
    except (OSError, ValueError):
        return 0


def dial_settings(settings: tuple[str, ...]) -> dict[str, list[str]]:
    """Return what ``--set`` gives each dial; given twice it is a list. Raises ``ListError``."""
    from yardcut.core.errors import ListError

    found: dict[str, list[str]] = {}
    for setting in settings:
        name, equals, text = setting.partition("=")
        if not equals or not name.strip():
            raise ListError(f"--set takes DIAL=VALUE, not {setting}", mend=Mend("for example: --set best=12"))
        found.setdefault(name.strip(), []).append(text)
    return found
