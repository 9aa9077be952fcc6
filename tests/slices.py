"""Lines run as the command line runs them, for tests of what is written."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.unattended import run_cut
from yardcut.core.writers.targets import RunOptions


def cut(folder: Path, *lines: str, source: str = "a.csv", out: str | None = None) -> list[str]:
    """Run lines as the command line does; return what is said of each."""
    spec = SourceSpec((str(folder / source),))
    session = Session(spec, CutList(spec.files, (), (Cut("", tuple(map(Line, lines))),)))
    session.open()
    path = None if out is None else folder / out
    report = run_cut(session, 0, RunOptions(path, base=folder), CancelToken(), Progress())
    return [note for line in report.lines for note in line.notes] + report.notes
