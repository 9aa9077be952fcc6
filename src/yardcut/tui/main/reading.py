"""Reading the source: at the start, again when sub-lines or files change, and columns when first looked at."""

from __future__ import annotations

import dataclasses
from typing import TYPE_CHECKING

from yardcut.core.errors import YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.collecting import collect_again
from yardcut.tui.desk.watching import FileWatch
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.session import Session
    from yardcut.core.sources.spec import SourceSpec, SubLine
    from yardcut.core.table.table import Table
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.screen import MainScreen

_LOOK_SECONDS = 2.0


class Reading:
    """``table`` is what is open; it is the desk's too once that is there."""

    def __init__(self, screen: MainScreen) -> None:
        self._screen = screen
        self.table: Table | None = None
        self._watch = FileWatch()
        self._change_said = ""
        self._awaited: frozenset[int] = frozenset()
        self._wanted: SourceSpec | None = None

    def start(self) -> None:
        """Open the source once the first rows have been painted: what opening needs takes half a second to import."""
        self._screen.call_after_refresh(self._screen.call_after_refresh, self._open)
        self._screen.set_interval(_LOOK_SECONDS, self._look_for_change)

    def _open(self) -> None:
        collect_again()
        opening = self._screen.opening
        if opening.choices:
            from yardcut.tui.cards.tables import TableChoice

            self._screen.app.push_screen(TableChoice(opening.spec.label, opening.choices), self._table_chosen)
        else:
            self._start_opening()

    def _table_chosen(self, line: SubLine | None) -> None:
        opening = self._screen.opening
        if line is None:
            self._screen.app.exit()
            return
        opening.spec = opening.spec.with_line(line)
        opening.choices = []
        self._start_opening()

    def _start_opening(self) -> None:
        self._screen.jobs.start(Job.OPEN, self._screen.opening.open, self._opened, self._not_opened)

    def _opened(self, table: Table) -> None:
        from yardcut.tui.desk.grids import whole_source

        screen = self._screen
        self.table = table
        self._watch.begin(screen.opening.spec)
        screen.grid.show(whole_source(table), same_table=True)
        screen.parts.showing.show_unopened()
        if table.info.notes:
            screen.say(" · ".join(table.info.notes[:3]) + "   (i tells more)", "$warning")
        opening = screen.opening
        screen.jobs.start(Job.SESSION, lambda token, progress: opening.session(table), self._session_there,
                          self._not_opened)  # fmt: skip

    def _session_there(self, session: Session) -> None:
        from yardcut.tui.desk.desk import Desk
        from yardcut.tui.desk.warm_up import warm_up

        self._screen.parts.desk_is_there(Desk(session))
        self._screen.jobs.start(Job.WARM_UP, lambda token, progress: warm_up())

    def _not_opened(self, error: YardcutError) -> None:
        self._screen.app.exit(return_code=error.exit_code, message=f"yardcut: {error}")

    # again

    def changed(self, before: Moment, now: Moment) -> None:
        """Read anew when the list wants another source than is open."""
        if now.spec == before.spec:
            return
        from yardcut.core.run.kinds_used import agree

        others = [
            line
            for line in (*now.spec.lines, *before.spec.lines)
            if now.spec.lines.count(line) != before.spec.lines.count(line)
        ]
        moved = now.list_path == before.list_path and now.spec.paths() != before.spec.paths()
        if moved or not agree(others, now.table):
            self.read_again()

    def read_again(self) -> None:
        """Read the source anew: its sub-lines changed, or the file did. The list is applied to what is read."""
        screen, before = self._screen, self.table
        if screen.desk is None or before is None:
            return
        desk, spec, opening = screen.desk, screen.desk.now.spec, screen.opening
        self._wanted = spec

        def failed(error: YardcutError) -> None:
            self._not_read_again()
            screen.say(f"not read again: {error}", "$warning")

        def there(table: Table) -> None:
            from yardcut.tui.desk.differences import differences

            self.table, self._wanted = table, None
            opening.spec = dataclasses.replace(spec)
            self._watch.begin(spec)
            desk.use(table)
            screen.say(differences(before, table))

        screen.say("reading the source again …")
        screen.jobs.start(Job.OPEN, lambda token, progress: opening.open_as(spec, token, progress), there, failed)

    def damaged(self) -> bool:
        """Read again because what the cache keeps is damaged; False when that is under way already."""
        if self._screen.jobs.is_running(Job.OPEN):
            return False
        self.read_again()
        self._screen.say("what the cache kept of the source is damaged: reading the source again …", "$warning")
        return True

    def stop(self) -> bool:
        """Stop reading; tells whether that was going on. What was read by then is kept, or all stays as it was."""
        screen = self._screen
        if self.table is None and screen.jobs.interrupt(Job.OPEN):
            screen.say("stopped reading: what was read by now is kept, as a part", "$warning")
            return True
        if screen.desk is None or not screen.jobs.stop(Job.OPEN):
            return False
        self._not_read_again()
        screen.say("stopped: the source is as it was", "$warning")
        return True

    def _not_read_again(self) -> None:
        """Take back the edit that asked for another source, if that is why it was to be read."""
        screen, wanted = self._screen, self._wanted
        self._wanted = None
        if screen.desk is not None and wanted is not None and wanted != screen.opening.spec:
            screen.desk.take_back_source(wanted)

    # columns

    def read_columns(self, columns: tuple[int, ...]) -> None:
        """Read columns of which no page can be shown before; those on screen now, whatever was asked for earlier."""
        screen, table, wanted = self._screen, self.table, frozenset(columns)
        if table is None or (wanted <= self._awaited and screen.jobs.is_running(Job.COLUMNS)):
            return
        self._awaited = wanted

        def work(token: CancelToken, progress: Progress) -> None:
            table.load(sorted(wanted), token, progress)

        screen.jobs.start(Job.COLUMNS, work, lambda _: screen.grid.columns_are_there(), screen.say_error)

    # watching

    def _look_for_change(self) -> None:
        if self.table is not None and not self._screen.jobs.is_running(Job.WATCH):
            self._screen.jobs.start(Job.WATCH, lambda token, progress: self._watch.changed(), self._seen)

    def _seen(self, changed: str) -> None:
        if changed and changed != self._change_said and self._screen.mode is None:
            self._change_said = changed
            self._screen.say(f"{changed}; R reads it again, with the list applied", "$warning")
        elif not changed:
            self._change_said = ""
