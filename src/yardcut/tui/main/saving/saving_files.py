"""Saving: the slice to a file, the list to a ``.cut`` file, what reading left out to a table of its own."""

from __future__ import annotations

import dataclasses
from datetime import datetime
from typing import TYPE_CHECKING

from yardcut.core.errors import TargetExistsError, YardcutError
from yardcut.core.language.save_options import GUARD, WITH_LIST
from yardcut.core.outgoing import Outgoing
from yardcut.core.paths import path_of, paths_like
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import is_address
from yardcut.tui.main.prompting.asking import Asking, Meaning, Question, on_server, over
from yardcut.tui.main.saving.saving_tables import not_written, save_table
from yardcut.tui.main.saving.slices_to_save import (
    RowsToSave,
    as_looked_at,
    as_of_selected,
    check_target,
    list_beside,
    list_folder,
    offcut_looked_at,
    plan_of_words,
    run_command,
    save_line,
    target_of,
    what_is_written,
    words_of,
)
from yardcut.tui.text import plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from pathlib import Path

    from yardcut.core.expressions.frame import Frame
    from yardcut.core.writers.formulas import Formulas
    from yardcut.core.writers.saving_slices import Written
    from yardcut.core.writers.targets import Target
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_LIST_SUFFIX = ".cut"


class Saving:
    """Asks where to, and writes."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting
        self._looked: Formulas | None = None

    def save_slice(self) -> None:
        """Ask where the slice goes, and write it as of the last line."""
        stage = self._stage
        assert stage.desk is not None
        moment = stage.desk.now
        frame = moment.frame_at(len(moment.lines) - 1)
        offcut = offcut_looked_at(moment)
        if offcut is not None:
            self._save_offcut(moment, offcut)
            return
        if moment.wrong is not None:
            stage.say("a line of the list is wrong; put it right first", "$warning")
            return
        if frame is None:
            stage.say("the rows are still being counted; save when they are")
            return
        named = save_line(moment)
        if named is not None:
            start = words_of(named, list_folder(moment))
        else:
            start = f"{moment.cut.name or moment.spec.stem}-slice.csv".replace(" ", "-")

        looked_at = as_looked_at(moment)
        label = " as the cut leaves them, not as they are looked at" if looked_at else ""
        rows = [RowsToSave(frame, label, len(moment.lines)), *looked_at, *as_of_selected(moment)]
        self._ask(moment, rows, "save slice ▸", start)

    def _save_offcut(self, moment: Moment, frame: Frame) -> None:
        """Ask where the rows that are gone go, and write them as any slice."""
        start = f"{moment.cut.name or moment.spec.stem}-offcut-{moment.selected + 1}.csv".replace(" ", "-")
        self._ask(moment, [RowsToSave(frame, "", None)], "save these rows ▸", start)

    def _ask(self, moment: Moment, rows: list[RowsToSave], lead: str, start: str) -> None:
        """Ask for a path. Where there are other rows that may be meant, F7 turns to them."""

        from yardcut.core.language.syntax.save_words import parse_save_words
        from yardcut.core.language.verbs.save import braces_said, column_in_path

        def means(text: str) -> Meaning:
            if not text:
                return Meaning("a path ending in .csv, .tsv, .parquet …; F6 has the options")
            first, *others = rows
            target = target_of(moment, text)
            if target.address:
                return on_server(what_is_written(first.frame, target) + first.label)
            if target.options[WITH_LIST] and first.lines is None:
                return Meaning("the list gives the rows that are left, and these are not: save them without it")
            try:
                check_target(target, moment)
            except TargetExistsError as error:
                return over(error)
            guards = self._looked.sentence() if self._looked is not None and not target.options[GUARD] else ""
            said = [what_is_written(first.frame, target) + first.label]
            for other in others:
                said.append(f"F7: {plural(other.frame.rows.count, 'row')}{other.label or ' as of the last line'}")
            said += [guards] if guards and target.plan.format.delimiter else []
            column = column_in_path(parse_save_words(text), moment.scope_at(len(moment.lines) - 1))
            said += [braces_said(column)] if column else []
            return Meaning("\n".join(said), good=True)

        def write(text: str, replace: bool = False) -> None:
            self._write(moment, rows[0], dataclasses.replace(target_of(moment, text), replace=replace))

        def choose(text: str) -> None:
            self._choose(rows[0].frame, text)

        self._looked = None
        replaced = lambda text: write(text, replace=True)  # noqa: E731
        turn = (lambda: rows.append(rows.pop(0))) if len(rows) > 1 else None
        self._prompting.ask(Question(lead, start, means, write, replaced, paths_like, more=choose, other=turn))
        self._look_for_formulas(rows[0].frame)

    def _choose(self, frame: Frame, text: str) -> None:
        """Show the options of a save; what is chosen stands behind the path then."""
        from yardcut.core.language.syntax.save_words import parse_save_words
        from yardcut.core.writers.slices_there import slice_there
        from yardcut.tui.cards.files.saving import SavingCard

        stage = self._stage
        try:
            save = parse_save_words(text)
            if is_address(save.path) and (said := slice_there(save.path).nothing_to_choose):
                stage.say(said, "$warning")
                return
            _ = plan_of_words(save)
        except YardcutError as error:
            stage.say_error(error)
            return
        columns = [(column.name, column.kind.value) for column in frame.columns]

        def chosen(words: str | None) -> None:
            if words is not None:
                stage.prompt.set_text(words)

        stage.app.push_screen(SavingCard(save, columns, self._looked), chosen)

    def _look_for_formulas(self, frame: Frame) -> None:
        """Count, behind the question, the texts that a spreadsheet would run as formulas."""
        from yardcut.core.writers.formulas import formulas_in

        def counted(found: Formulas) -> None:
            self._looked = found
            if isinstance(self._stage.mode, Asking):
                self._stage.mode.text_changed(self._stage.prompt.text)

        self._stage.jobs.start(
            Job.LOOK_FOR_FORMULAS, lambda token, progress: formulas_in(frame, token), counted, lambda error: None
        )

    def _write(self, moment: Moment, rows: RowsToSave, target: Target) -> None:
        from yardcut.core.unattended.list_beside import check_beside, write_beside
        from yardcut.core.writers.saving_slices import with_more_said
        from yardcut.core.writers.targets import write_target

        def work(token: CancelToken, progress: Progress) -> Written:
            def carries() -> str:
                return "" if rows.lines is None else list_beside(moment, target.path, rows.lines)

            def written_slice() -> Written:
                runner = None if moment.executor is None else moment.executor.runner
                return write_target(
                    rows.frame, target, moment.spec, moment.protected, token, progress, carries, runner
                )  # fmt: skip

            if not target.options[WITH_LIST]:
                return written_slice()
            out = target.outgoing(moment.protected)
            check_beside(out, moment.list_path)
            written = written_slice()
            beside = write_beside(out, list_beside(moment, target.path, rows.lines))
            return with_more_said(written, f"and its list to {beside}")

        self._stage.jobs.stop(Job.LOOK_FOR_FORMULAS)
        self._stage.say(f"writing {target.address or target.path} …")
        self._stage.write(work, lambda written: self._written(written, moment), self._not_written)

    def _written(self, written: Written, moment: Moment) -> None:
        self._stage.slice_written = moment.cut, f"{datetime.now():%H:%M}"
        self._stage.say(written.sentence())

    def _not_written(self, error: YardcutError) -> None:
        not_written(self._stage, error)

    def stop(self) -> bool:
        """Stop writing; tells whether that was going on. Nothing half-written is left; what came of it is said then."""
        if not self._stage.jobs.interrupt(Job.SAVE):
            return False
        self._stage.say("stopping …", "$warning")
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
            lambda out: write_left_out(moment.table, out),
            {".csv": "all with their places", ".txt": "the rows as they stood"},
        )  # fmt: skip

    def save_list(self) -> None:
        """Ask where the list goes, and write it."""
        stage = self._stage
        assert stage.desk is not None
        desk, moment = stage.desk, stage.desk.now
        known = moment.list_path
        unlisted = moment.protected if known is None else moment.protected.without(known)

        def is_known(path: Path) -> bool:
            return known is not None and path.exists() and path.samefile(known)

        start = str(known) if known else f"{(moment.cut.name or moment.spec.stem).replace(' ', '-')}{_LIST_SUFFIX}"

        def means(text: str) -> Meaning:
            path = path_of(text)
            if path.suffix != _LIST_SUFFIX:
                return Meaning("a list's path ends in .cut")
            is_own = is_known(path)
            try:
                Outgoing(path, unlisted, is_own).check()
            except TargetExistsError as error:
                return over(error)
            if is_own and desk.is_list_another:
                return over(f"{path} was changed by somebody else since it was read")
            said = ", over the list as it was" if is_own else ""
            return Meaning(f"writes {plural(len(moment.cut.lines), 'line')}{said}", good=True)

        def write(text: str, replace: bool = False) -> None:
            path = path_of(text)
            try:
                moved = desk.save_list(path, over=replace or is_known(path))
            except YardcutError as error:
                self._not_written(error)
                return
            also = "; the source's path is now given from the list's own directory" if moved else ""
            stage.say(f"saved the list to {path}{also}; run it again with: {run_command(path, desk.now)}")

        replaced = lambda text: write(text, replace=True)  # noqa: E731
        self._prompting.ask(Question("save list ▸", start, means, write, replaced, paths_like))
