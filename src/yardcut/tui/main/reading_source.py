"""Reading the source: at the start, again when sub-lines or files change, and columns when first looked at."""

from __future__ import annotations

import dataclasses
import time
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from yardcut.core.errors import YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.file_watch import FileWatch
from yardcut.tui.collecting import collect_again
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.growing import Growing
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.session import Session
    from yardcut.core.sources.spec import SourceSpec, SubLine
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage

_LOOK_SECONDS = 2.0
_MOST_SAID_CELLS = 120
_TWICE_SECONDS = 3.0


class Reading:
    """Opens the table and makes the desk."""

    def __init__(self, stage: Stage, showing: Showing, desk_is_there: Callable[[Desk], None]) -> None:
        self._stage = stage
        self._showing = showing
        self._desk_is_there = desk_is_there
        stage.when_damaged = self.damaged
        self._watch = FileWatch()
        self._change_said = ""
        self._awaited: frozenset[int] = frozenset()
        self._wanted: SourceSpec | None = None
        self._unchosen: SourceSpec | None = None
        self._is_first = False
        self._stop_asked = 0.0
        self.growing = Growing(stage, self._make_desk)

    def start(self) -> None:
        """Open the source once the first rows have been painted: what opening needs takes half a second to import."""
        self._stage.after_paint(self._open)
        self._stage.every(_LOOK_SECONDS, self._look_for_change)

    def _open(self) -> None:
        collect_again()
        if self._stage.opening.choices:
            self._ask_for_table()
        else:
            self._start_opening()

    def _ask_for_table(self, said: str = "") -> None:
        """Let a table be chosen; ``said`` is why another one has to be."""
        from yardcut.tui.cards.files.tables import TableChoice

        opening = self._stage.opening
        self._unchosen = opening.spec
        card = TableChoice(opening.spec.label, opening.choices, said, opening.look_inside)
        self._stage.app.push_screen(card, self._table_chosen)

    def _table_chosen(self, line: SubLine | None) -> None:
        opening = self._stage.opening
        if line is None:
            self._stage.app.exit()
            return
        opening.spec = opening.spec.with_line(line)
        self._start_opening()

    def _start_opening(self) -> None:
        opening, so_far = self._stage.opening, self.growing.begin()
        self._is_first = True

        def work(token: CancelToken, progress: Progress) -> tuple[Table, list[str]] | None:
            if opening.fetch(token, progress) and opening.choices:
                return None
            table = opening.open(token, progress, so_far(token))
            from yardcut.core.run.explaining.source_report import sentences
            from yardcut.core.sources.elsewhere.addresses import taken_out

            return table, [*taken_out(opening.spec.files), *sentences(table)]

        self._stage.jobs.start(Job.OPEN, work, self._opened, self._not_opened)

    def _opened(self, found: tuple[Table, list[str]] | None) -> None:
        if found is None:
            self._ask_for_table()  # what is inside shows when it is here
            return
        table, said = found
        stage = self._stage
        self._is_first = False
        self._watch.begin(stage.opening.spec)

        def tell() -> None:
            self._announce([*filter(None, [stage.said_at_start]), *said])
            self.growing.do_what_was_put_off()

        if stage.desk is not None:
            self.growing.take_whole(table, tell)
            return
        self.growing.end()
        stage.table = table
        tell()
        self._make_desk(table)

    def _make_desk(self, table: Table) -> None:
        stage = self._stage
        opening = stage.opening
        self._showing.show_unopened()

        def work(token: CancelToken, progress: Progress) -> Session:
            import yardcut.tui.desk.column_looks
            import yardcut.tui.desk.desk
            import yardcut.tui.desk.grids
            import yardcut.tui.main.prompting.writing_lines  # noqa: F401 - loaded here, all four, rather than on the event loop

            return opening.session(table)

        stage.jobs.start(Job.SESSION, work, self._session_there, self._not_opened)

    def _announce(self, said: list[str]) -> None:
        """Announce what is to be known of the source, the most harmful first."""
        if said:
            shown = [said[0]]
            for sentence in said[1:]:
                if len(" · ".join([*shown, sentence])) > _MOST_SAID_CELLS:
                    break
                shown.append(sentence)
            more = f" · and {len(said) - len(shown)} more" if len(said) > len(shown) else ""
            self._stage.say(" · ".join(shown) + f"{more}   ({key_of('source')} tells all)", "$warning")

    def _session_there(self, session: Session) -> None:
        from yardcut.tui.desk.desk import Desk
        from yardcut.tui.desk.grids import whole_source
        from yardcut.tui.desk.warm_up import warm_up

        assert self._stage.table is not None
        # all rows, until those of a list's last line are known
        self._stage.grid.show(whole_source(self._stage.table), same_table=True)
        self._desk_is_there(Desk(session))
        self._stage.jobs.start(Job.WARM_UP, lambda token, progress: warm_up())

    def _not_opened(self, error: YardcutError) -> None:
        if self._unchosen is not None and self._stage.table is None:
            self._stage.opening.spec = self._unchosen
            self._ask_for_table(str(error))
            return
        self._is_first = False
        self.growing.end()
        self.growing.forget()
        if self._stage.desk is not None:
            again = f"{key_of('again')} reads it again; what is shown are its first rows"
            self._stage.say(f"not read to its end: {error}; {again}", "$warning")
            return
        self._stage.app.exit(return_code=error.exit_code, message=f"yardcut: {error}")

    # again

    def changed(self, before: Moment, now: Moment) -> None:
        """Read anew when the list wants another source than is open; watch the files it wants beside it."""
        if now.cut_list is not before.cut_list or now is before:
            from yardcut.core.cutlist.second_paths import second_files

            self._watch.beside(second_files(now.cut_list))
        if now.spec == before.spec:
            return
        from yardcut.core.run.executing.kinds_used import agree

        others = [
            line
            for line in (*now.spec.lines, *before.spec.lines)
            if now.spec.lines.count(line) != before.spec.lines.count(line)
        ]
        moved = now.list_path == before.list_path and now.spec.paths() != before.spec.paths()
        if moved or not agree(others, now.table):
            self.read_again()

    def read_anew(self) -> None:
        """Read the source as it is now, what stands elsewhere too."""
        self.read_again(anew=True)

    def read_again(self, *, anew: bool = False) -> None:
        """Read the source again: its sub-lines changed, or the file did. The list is applied to what is read."""
        stage, before = self._stage, self._stage.table
        if stage.desk is None or before is None:
            return
        desk, spec, opening = stage.desk, stage.desk.now.spec, stage.opening
        self._wanted = spec

        self._is_first = False
        self.growing.end()
        self.growing.is_coming = before.share_read < 1  # this reading brings all of it, or the first one goes on

        def failed(error: YardcutError) -> None:
            self._not_read_again()
            stage.say(f"not read again: {error}", "$warning")

        def there(table: Table) -> None:
            from yardcut.tui.desk.reread_differences import differences

            stage.table, self._wanted = table, None
            opening.spec = dataclasses.replace(spec)
            self._watch.begin(spec)
            desk.use(table)
            self.growing.end()
            stage.say(differences(before, table))
            self.growing.do_what_was_put_off()

        def work(token: CancelToken, progress: Progress) -> Table:
            if anew:
                from yardcut.core.sources.elsewhere.standing import let_be_read_anew

                let_be_read_anew(spec)
            return opening.open_as(spec, token, progress)

        stage.say("reading the source again …")
        stage.jobs.start(Job.OPEN, work, there, failed)

    def damaged(self) -> bool:
        """Read again because what the cache keeps is damaged; False when that is under way already."""
        if self._stage.jobs.is_running(Job.OPEN):
            return False
        self.read_again()
        self._stage.say("what the cache kept of the source is damaged: reading the source again …", "$warning")
        return True

    def stop(self) -> bool:
        """Stop reading; tells whether that was going on. What was read by then is kept, or all stays as it was."""
        stage = self._stage
        if self.growing.forget():
            stage.say("what was to be done when all of it is read will not be done")
            return True
        if self._is_first and stage.desk is not None and not self._is_stop_asked():
            return True
        if self._is_first and stage.jobs.interrupt(Job.OPEN):
            stage.say("stopped reading: what was read by now is kept, as a part", "$warning")
            return True
        if stage.desk is None or not stage.jobs.stop(Job.OPEN):
            return False
        self._not_read_again()
        stage.say("stopped: the source is as it was", "$warning")
        return True

    def _is_stop_asked(self) -> bool:
        """Tell whether a reading behind the work is to be stopped: the key that goes back was pressed twice."""
        now, before = time.monotonic(), self._stop_asked
        self._stop_asked = now
        if now - before <= _TWICE_SECONDS:
            return True
        again = f"{key_of('stop')} again stops it, and keeps what was read"
        self._stage.say(f"the source is being read behind this; {again}")
        return False

    def _not_read_again(self) -> None:
        """Take back the edit that asked for another source, if that is why it was to be read."""
        stage, wanted = self._stage, self._wanted
        self._wanted = None
        if stage.desk is not None and wanted is not None and wanted != stage.opening.spec:
            stage.desk.take_back_source(wanted)
        if stage.table is not None and stage.table.share_read < 1:
            self._start_opening()  # it was not read to its end, and is what is there

    # columns

    def read_columns(self, columns: Sequence[int], rows: Sequence[int]) -> None:
        """Fetch ``rows`` of columns of which no page can be shown before, or read these whole where that is better.

        They are those on screen now, by their numbers from 1, whatever was asked for earlier.
        """
        stage, table, wanted = self._stage, self._stage.table, frozenset(columns)
        if table is None or table.share_read < 1 or (wanted <= self._awaited and stage.jobs.is_running(Job.COLUMNS)):
            return
        self._awaited = wanted

        def work(token: CancelToken, progress: Progress) -> None:
            import numpy as np

            table.fetch(sorted(wanted), np.array(rows, np.int64) - 1, token, progress)

        stage.jobs.start(Job.COLUMNS, work, lambda _: stage.grid.columns_are_there(), stage.say_error)

    # watching

    def _look_for_change(self) -> None:
        if self._stage.table is not None and not self._stage.jobs.is_running(Job.WATCH):
            self._stage.jobs.start(Job.WATCH, lambda token, progress: self._watch.changed(), self._seen)

    def _seen(self, changed: str) -> None:
        if changed and changed != self._change_said and self._stage.mode is None:
            self._change_said = changed
            self._stage.say(f"{changed}; {key_of('again')} reads it again, with the list applied", "$warning")
        elif not changed:
            self._change_said = ""
