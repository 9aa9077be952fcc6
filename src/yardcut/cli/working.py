"""What the commands share: stopping on ctrl+c, progress on a terminal, reports on standard error."""

from __future__ import annotations

import signal
import sys
import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, TypeVar

from yardcut.cli.saying import say, show_progress
from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress

if TYPE_CHECKING:
    from yardcut.core.run.report import LineReport
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.table import Table

_Result = TypeVar("_Result")
_SAMPLE_SECONDS = 0.1


def with_progress(work: Callable[[CancelToken, Progress], _Result]) -> _Result:
    """Do work that can be stopped with ctrl+c, with a line of progress when standard error is a terminal."""
    token, progress = CancelToken(), Progress()
    before = signal.signal(signal.SIGINT, lambda number, frame: token.cancel())
    done = threading.Event()
    display = threading.Thread(target=_display, args=(progress, done), daemon=True)
    if sys.stderr.isatty():
        display.start()
    try:
        return work(token, progress)
    finally:
        done.set()
        if display.is_alive():
            display.join()
        signal.signal(signal.SIGINT, before)


def _display(progress: Progress, done: threading.Event) -> None:
    shown = False
    while not done.wait(_SAMPLE_SECONDS):
        if progress.total:
            show_progress(progress.sentence())
            shown = True
    if shown:
        show_progress("")


def say_source(table: Table) -> None:
    """Say on standard error what a user must know of the source: files left out, rows dropped, values set aside."""
    said = list(table.info.notes)
    for file in table.info.files:
        if file.dropped:
            said.append(f"{file.label}: dropped " + ", ".join(file.dropped_words()))
    for column in table.columns:
        if column.info.set_aside:
            said.append(f"{column.name}: {column.info.set_aside:,} set aside, which are no {column.kind}")
    for sentence in said:
        say(f"! {sentence}")


def say_line(line: LineReport) -> None:
    """Print a line of the report to standard error."""
    say(line.sentence(), over_progress=True)


def named_sources(sources: tuple[str, ...]) -> SourceSpec:
    """Return what the words of a command name: files, patterns, or ``-`` for standard input."""
    from yardcut.core.sources.spec import STANDARD_INPUT, SourceSpec

    if not sources:
        raise SourceError("no source was named", mend=Mend("name a file"))
    if STANDARD_INPUT in sources:
        from yardcut.core.sources.piped import kept_input

        sources = tuple(str(kept_input(sys.stdin.buffer)) if name == STANDARD_INPUT else name for name in sources)
    return SourceSpec(sources)


def no_dials(settings: tuple[str, ...]) -> None:
    """Refuse settings of dials, which no list of this version can have."""
    if settings:
        from yardcut.core.errors import ListError

        raise ListError(f"the list has no dial {settings[0].split('=')[0]}")
