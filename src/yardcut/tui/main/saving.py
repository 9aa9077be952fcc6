"""Saving: the slice to a file, the list to a ``.cut`` file, what reading left out to a table of its own."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import TargetExistsError, YardcutError
from yardcut.core.paths import path_of
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.desk.view import View
from yardcut.tui.main.asking import Meaning, Question
from yardcut.tui.main.paths import paths_like
from yardcut.tui.main.saving_tables import not_written, save_table
from yardcut.tui.text import plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.language.verbs.save import Save
    from yardcut.core.writers.saving import Written
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_LIST_SUFFIX = ".cut"


class Saving:
    """Asks where to, and writes."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting

    def save_slice(self) -> None:
        """Ask where the slice goes, and write it as of the last line."""
        stage = self._stage
        assert stage.desk is not None
        moment = stage.desk.now
        frame = moment.frame_at(len(moment.lines) - 1)
        offcut = _offcut_looked_at(moment)
        if offcut is not None:
            self._save_offcut(moment, offcut)
            return
        if moment.wrong is not None:
            stage.say("a line of the list is wrong; put it right first", "$warning")
            return
        if frame is None:
            stage.say("the rows are still being counted; save when they are")
            return
        named = _save_line(moment)
        if named is not None:
            start = str(_list_folder(moment) / named.path)
        else:
            start = f"{moment.cut.name or moment.spec.stem}-slice.csv".replace(" ", "-")

        self._ask(moment, frame, "save slice ▸", start, named)

    def _save_offcut(self, moment: Moment, frame: Frame) -> None:
        """Ask where the rows that are gone go, and write them as any slice."""
        start = f"{moment.cut.name or moment.spec.stem}-offcut-{moment.selected + 1}.csv".replace(" ", "-")
        self._ask(moment, frame, "save these rows ▸", start, None)

    def _ask(self, moment: Moment, frame: Frame, lead: str, start: str, named: Save | None) -> None:
        def means(text: str) -> Meaning:
            from yardcut.core.writers.saving import check_target, format_of

            if not text:
                return Meaning("a path ending in .csv, .tsv or .parquet")
            path = path_of(text)
            try:
                form = format_of(path, _format_for(named, path))
                check_target(path, moment.spec.paths(), replace=False)
            except TargetExistsError as error:
                return Meaning(f"{error}\nF5 replaces it", replaces=True)
            shape = f"{plural(frame.rows.count, 'row')} and {plural(len(frame.columns), 'column')}"
            return Meaning(f"writes {shape} as {form}", good=True)

        def write(text: str, replace: bool = False) -> None:
            path = path_of(text)
            self._write(moment, frame, path, _format_for(named, path), replace)

        self._prompting.ask(Question(lead, start, means, write, lambda text: write(text, replace=True), paths_like))

    def _write(self, moment: Moment, frame: Frame, path: Path, named: str | None, replace: bool) -> None:
        from yardcut.core.writers.saving import format_of, save_slice

        def work(token: CancelToken, progress: Progress) -> Written:
            form = format_of(path, named)
            return save_slice(
                frame, path, form, sources=moment.spec.paths(), replace=replace, token=token, progress=progress
            )

        self._stage.say(f"writing {path} …")
        self._stage.jobs.start(Job.SAVE, work, self._written, self._not_written)

    def _written(self, written: Written) -> None:
        self._stage.say(written.sentence())

    def _not_written(self, error: YardcutError) -> None:
        not_written(self._stage, error)

    def stop(self) -> bool:
        """Stop writing; tells whether that was going on. Nothing half-written is left."""
        if not self._stage.jobs.stop(Job.SAVE):
            return False
        self._stage.say("stopped: nothing was written", "$warning")
        return True

    def save_left_out(self) -> None:
        """Ask where the dropped rows and the values set aside go, and write them with their places."""
        from yardcut.core.writers.left_out import left_out, write_left_out

        stage = self._stage
        assert stage.desk is not None
        moment = stage.desk.now
        rows, values = left_out(moment.table)
        both = [plural(rows, "dropped row")] * (rows > 0) + [f"{plural(values, 'value')} set aside"] * (values > 0)
        said = " and ".join(both)

        save_table(
            stage, self._prompting, "save what was left out ▸", f"{moment.spec.stem}-left-out.csv", said,
            lambda path: write_left_out(moment.table, path),
            {".csv": "all with their places", ".txt": "the rows as they stood"},
        )  # fmt: skip

    def save_list(self) -> None:
        """Ask where the list goes, and write it."""
        stage = self._stage
        assert stage.desk is not None
        desk, moment = stage.desk, stage.desk.now
        known = moment.list_path
        start = str(known) if known else f"{(moment.cut.name or moment.spec.stem).replace(' ', '-')}{_LIST_SUFFIX}"

        def means(text: str) -> Meaning:
            path = path_of(text)
            if path.suffix != _LIST_SUFFIX:
                return Meaning("a list's path ends in .cut")
            if not path.parent.is_dir():
                return Meaning(f"there is no directory {path.parent}")
            if path.exists() and (known is None or path.resolve() != known.resolve()):
                return Meaning(f"{path} exists\nF5 replaces it", replaces=True)
            over = ", over the list as it was" if path.exists() else ""
            return Meaning(f"writes {plural(len(moment.cut.lines), 'line')}{over}", good=True)

        def write(text: str) -> None:
            path = path_of(text)
            try:
                moved = desk.save_list(path)
            except YardcutError as error:
                self._not_written(error)
                return
            also = "; the source's path is now given from the list's own directory" if moved else ""
            stage.say(f"saved the list to {path}{also}; run it again with: yardcut run {path}")

        self._prompting.ask(Question("save list ▸", start, means, write, write, paths_like))


def _offcut_looked_at(moment: Moment) -> Frame | None:
    """Return the rows that are gone while they are what the table shows."""
    if moment.part is not None:
        return moment.part.frame
    result = moment.result_at(moment.selected)
    return result.offcut if moment.view is View.OFFCUT and result is not None else None


def _save_line(moment: Moment) -> Save | None:
    """Return the cut's last save line that is on."""
    from yardcut.core.language.verbs.save import BoundSave

    bodies = [line.bound.body for line in moment.lines if line.bound is not None]
    saves = [body.save for body in bodies if isinstance(body, BoundSave)]
    return saves[-1] if saves else None


def _list_folder(moment: Moment) -> Path:
    return moment.list_path.parent if moment.list_path is not None else Path()


def _format_for(named: Save | None, path: Path) -> str | None:
    return named.format if named is not None and path.name == Path(named.path).name else None
