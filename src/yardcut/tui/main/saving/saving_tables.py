"""Asking where a small table goes, and writing it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.errors import TargetExistsError
from yardcut.core.outgoing import Outgoing
from yardcut.core.paths import path_of, paths_like
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.main.prompting.asking import Meaning, Question, over

if TYPE_CHECKING:
    from yardcut.core.errors import YardcutError
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

CSV = {".csv": ""}


def save_table(
    stage: Stage, prompting: Prompting, lead: str, start: str, said: str, write: Callable[[Outgoing], None],
    endings: dict[str, str] = CSV,
) -> None:  # fmt: skip
    """Ask for a path with one of some endings (each with what it is for) and write there; ``said`` is what is written.

    What exists is written over only when that is allowed, and never a source or the list.
    """
    wanted = " or ".join(f"{ending}{f' ({what})' if what else ''}" for ending, what in endings.items())
    assert stage.desk is not None
    protected = stage.desk.now.protected

    def means(text: str) -> Meaning:
        path = path_of(text)
        if path.suffix not in endings:
            return Meaning(f"a path ending in {wanted}")
        try:
            Outgoing(path, protected).check()
        except TargetExistsError as error:
            return over(error)
        return Meaning(f"writes {said}", good=True)

    def done(text: str, replace: bool = False) -> None:
        path = path_of(text)
        out = Outgoing(path, protected, replace)

        def work(token: CancelToken, progress: Progress) -> None:
            progress.begin(f"writing {said}", 0)
            write(out)

        stage.say(f"writing {path} …")
        stage.write(work, lambda _: stage.say(f"wrote {path}: {said}"), lambda error: not_written(stage, error))

    replaced = lambda text: done(text, replace=True)  # noqa: E731
    prompting.ask(Question(lead, start, means, done, replaced, paths_like))


def not_written(stage: Stage, error: YardcutError) -> None:
    """Say on a card what was not written, and why."""
    from yardcut.tui.cards.confirm import SayCard

    stage.say_error(error)
    stage.app.push_screen(SayCard("not written", str(error)))
