"""Another source: asked for by path, or named by a path that was pasted or dropped on the terminal."""

from __future__ import annotations

import re
import shlex
from typing import TYPE_CHECKING
from urllib.parse import unquote, urlparse

from yardcut.core.errors import SourceError, YardcutError
from yardcut.core.paths import path_of, paths_like
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import is_address
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.main.prompting.asking import Meaning, Question
from yardcut.tui.text import clean
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.saving.saving_files import Saving
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.opened_with import Opening

_LONGEST = 4095
_PATTERN = re.compile(r"[*?\[]")


class OpeningHands:
    """Leaves for another source; the list of this one is asked about, and kept where it was not saved."""

    def __init__(self, stage: Stage, prompting: Prompting, saving: Saving) -> None:
        self._stage = stage
        self._prompting = prompting
        self._saving = saving

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "open": self.ask,
        }

    def ask(self, text: str = "") -> None:
        """Ask for the path of another source."""

        def means(path: str) -> Meaning:
            if not path.strip():
                return Meaning("a table, a pattern such as yard_20*.csv, a cutting list (.cut), or an address")
            if is_address(path.strip()):
                return Meaning("opens what stands there instead of this source", True)
            return Meaning(f"opens {clean(_spec(path).label)} instead of this source", True)

        def done(path: str) -> None:
            self._leave_for(_spec(path))

        self._prompting.ask(Question("open ▸", text, means, done, options=paths_like))

    def take_pasted(self, text: str) -> bool:
        """Open a source whose path was pasted; where there are lines already, Enter is waited for."""
        path = pasted_path(text)
        if path is None:
            return False
        desk = self._stage.desk
        if desk is not None and not desk.now.cut.lines:
            self._leave_for(_spec(path))
        else:
            self.ask(path)
        return True

    def _leave_for(self, source: SourceSpec) -> None:
        """Look at the source first: what cannot be opened is told here, and nothing is left."""
        from yardcut.tui.opened_with import Opening

        def work(token: CancelToken, progress: Progress) -> Opening:
            opening = Opening(source)
            opening.check(token)
            return opening

        stage = self._stage
        stage.fetch_for_card(Job.OPENING, work, self._leave, stage.say_error)

    def _leave(self, opening: Opening) -> None:
        from yardcut.tui.cards.confirm import ConfirmCard

        stage = self._stage
        now = stage.desk.now if stage.desk is not None else None
        if now is None or now.is_saved or not now.cut.lines:
            stage.app.exit(opening)
            return

        def answered(answer: str | None) -> None:
            if answer == "y":
                stage.app.exit(opening)
            elif answer == "s":
                self._saving.save_list()

        question = "The cutting list is not saved. Open the other source all the same? It is kept with this one."
        stage.app.push_screen(ConfirmCard(question, {"y": "open it", "s": "save the list first"}), answered)


def _spec(text: str) -> SourceSpec:
    """Return the source that a path names. Raises ``SourceError`` where there is none."""
    if is_address(text.strip()):
        return SourceSpec.of(text.strip())
    path = path_of(text.strip(), SourceError)
    if not _PATTERN.search(path.name) and not path.exists():
        raise SourceError(f"there is no {text.strip()}")
    if path.is_dir():
        raise SourceError(f"{text.strip()} is a directory")
    spec = SourceSpec.of(path)
    spec.paths()
    return spec


def pasted_path(text: str) -> str | None:
    """Return the path of a file that is there, as terminals paste it: bare, quoted, escaped, or as a file URI."""
    text = text.strip()
    if not text or len(text) > _LONGEST or "\n" in text or "\0" in text:
        return None
    written = [text]
    if text.startswith("file://"):
        written = [unquote(urlparse(text).path)]
    elif any(mark in text for mark in "'\"\\"):
        try:
            parts = shlex.split(text)
        except ValueError:
            parts = []
        written += parts if len(parts) == 1 else []
    for each in written:
        try:
            path = path_of(each)
            if path.is_file():
                return str(path)
        except (OSError, YardcutError):
            continue
    return None
