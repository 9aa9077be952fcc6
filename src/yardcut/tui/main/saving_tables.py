"""Asking where a small table goes, and writing it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.paths import path_of
from yardcut.tui.main.asking import Meaning, Question
from yardcut.tui.main.paths import paths_like
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.errors import YardcutError
    from yardcut.tui.main.prompting import Prompting
    from yardcut.tui.main.stage import Stage

CSV = {".csv": ""}


def save_table(
    stage: Stage, prompting: Prompting, lead: str, start: str, said: str, write: Callable[[Path], None],
    endings: dict[str, str] = CSV,
) -> None:  # fmt: skip
    """Ask for a path with one of some endings (each with what it is for) and write there; ``said`` is what is written.

    What exists is replaced on F5 only, and never a source.
    """
    wanted = " or ".join(f"{ending}{f' ({what})' if what else ''}" for ending, what in endings.items())
    assert stage.desk is not None
    sources = {path.resolve() for path in stage.desk.now.spec.paths()}

    def means(text: str) -> Meaning:
        path = path_of(text)
        if path.suffix not in endings:
            return Meaning(f"a path ending in {wanted}")
        if path.resolve() in sources:
            return Meaning(f"{path} is a source of the table: name another place")
        if path.exists():
            return Meaning(f"{path} exists\nF5 replaces it", replaces=True)
        if not path.parent.is_dir():
            return Meaning(f"there is no directory {path.parent}")
        return Meaning(f"writes {said}", good=True)

    def done(text: str) -> None:
        path = path_of(text)
        stage.jobs.start(
            Job.SAVE, lambda token, progress: write(path), lambda _: stage.say(f"wrote {path}: {said}"),
            lambda error: not_written(stage, error),
        )  # fmt: skip

    prompting.ask(Question(lead, start, means, done, done, paths_like))


def not_written(stage: Stage, error: YardcutError) -> None:
    """Say on a card what was not written, and why."""
    from yardcut.tui.cards.confirm import SayCard

    stage.say_error(error)
    stage.app.push_screen(SayCard("not written", str(error)))
