"""Comparing: two cuts of the source, or a cut on the source and on another file."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import SourceError
from yardcut.core.paths import path_of, paths_like
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.prompting.asking import Meaning, Question

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.core.run.looking.two_sides import Compared
    from yardcut.tui.cards.looking.compare import ComparedAnswer
    from yardcut.tui.cards.looking.picture import Subject
    from yardcut.tui.desk.beside import Pair
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class CompareHands:
    """Shows two sides on a card, and what is chosen there in the table or as a picture."""

    def __init__(self, stage: Stage, prompting: Prompting, show_picture: Callable[[Subject], None]) -> None:
        self._stage = stage
        self._prompting = prompting
        self._show_picture = show_picture

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def with_cut(self, other: int) -> None:
        """Compare the cut worked on with another one; given itself, with the one before it, or behind the first."""
        from yardcut.tui.desk.beside import two_cuts

        now = self._desk.now
        if len(now.cut_list.cuts) == 1:
            self._stage.say(f"the list has one cut: {key_of('copy-cut')} adds a copy to compare it with")
            return
        if other == now.cut_index:
            other = other - 1 if other else 1
        self._show(two_cuts(now, other), now)

    def on_another(self, index: int) -> None:
        """Ask for a file, and show the cut on the source beside the same cut on it."""
        from yardcut.tui.desk.beside import on_another_source

        now = self._desk.now
        folder = _folder(now)

        def means(text: str) -> Meaning:
            if not text:
                return Meaning("the file of last year, or any other with these columns; Tab completes its path")
            path = _beside(path_of(text), folder)
            if not path.exists():
                return Meaning(f"there is no {path}")
            if path.is_dir():
                return Meaning(f"{path} is a directory: name a file in it")
            return Meaning(f"reads {path} with the same sub-lines; the cut runs there too, nothing is kept", good=True)

        def done(text: str) -> None:
            now = self._desk.now
            if index < len(now.cut_list.cuts):
                self._show(on_another_source(now, index, _beside(path_of(text), folder), self._desk.executor_of), now)

        name = now.cut_list.cuts[index].name or "the cut"
        start = "" if folder == Path() else f"{folder}/"
        self._prompting.ask(Question(f"{name} also on ▸", start, means, done, options=paths_like))

    def _show(self, pair: Pair, now: Moment) -> None:
        from yardcut.tui.cards.looking.compare import CompareCard
        from yardcut.tui.desk.beside import BesideSubject

        def chosen(answer: ComparedAnswer | None) -> None:
            if answer is None or self._desk.now.table is not now.table:
                return
            if answer.sides is not None:
                self._show_picture(BesideSubject(now, *answer.sides))
            elif answer.found is not None:
                self._see(answer.found, answer.what, pair.names)
            elif answer.what == "line":
                self._desk.select(answer.line)

        self._stage.app.push_screen(CompareCard(pair), chosen)

    def _see(self, found: Compared, which: str, names: tuple[str, str]) -> None:
        """Show the rows in both, or in one alone."""
        here, there = names
        rows = {"both": found.both, "here": found.only_here, "there": found.only_there}[which]
        told = {"both": f"rows in both {here} and {there}", "here": f"rows only in {here}, not in {there}",
                "there": f"rows only in {there}, not in {here}"}[which]  # fmt: skip
        frame = found.there if which == "there" else found.here
        mark = f"compared {hashlib.blake2b(rows.member_bits().tobytes(), digest_size=12).hexdigest()} {told}"
        self._desk.look_at_compared(frame.with_rows(rows), told, mark)


def _folder(now: Moment) -> Path:
    """Return where the source's first file stands: the file of last year is likely to stand beside it."""
    try:
        return next(iter(now.spec.paths()), Path()).parent
    except SourceError:
        return Path()


def _beside(path: Path, folder: Path) -> Path:
    """Return a path, or where nothing is there, what has that name beside the source."""
    return folder / path if not path.exists() and (folder / path).exists() else path
