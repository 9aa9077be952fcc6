"""Reading the source again when its sub-lines or its files change, and single columns when they are first looked at."""

from __future__ import annotations

from typing import TYPE_CHECKING

from textual import on

from yardcut.core.errors import StoreDamagedError, YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.screens.view import ViewScreen
from yardcut.tui.widgets.grid.grid import Grid

if TYPE_CHECKING:
    from yardcut.core.table.table import Table

_LOOK_SECONDS = 2.0


class ReopeningScreen(ViewScreen):
    """Adds reading again to what the panels show."""

    _awaited: frozenset[int] = frozenset()

    def on_mount(self) -> None:
        """Look now and then whether a file of the source has changed."""
        self.set_interval(_LOOK_SECONDS, self._look_for_change)

    def read_again(self) -> None:
        """Read the source anew: its sub-lines changed, or the file did. The list is applied to what is read."""
        bench, before = self.bench, self.table
        if bench is None or before is None:
            return
        spec = bench.session.spec
        self._spec_before, self._spec = self._spec, spec

        def failed(error: YardcutError) -> None:
            self._not_read_again()
            self.say(f"not read again: {error}", "$warning")

        def there(table: Table) -> None:
            self.table = table
            bench.session.use(table)
            bench.forget()
            self._watch.begin(spec)
            self._changed()
            from yardcut.tui.reloading import differences

            self.say(differences(before, table))

        self.say("reading the source again …")
        self.tasks.start("open", lambda token, progress: self._opening.open_as(spec, token, progress), there, failed)

    @on(Grid.Waiting)
    def _columns_wanted(self, event: Grid.Waiting) -> None:
        """Read columns of which no page can be shown before; those on screen now, whatever was asked for earlier."""
        table, wanted = self.table, frozenset(event.columns)
        if table is None or (wanted <= self._awaited and self.tasks.is_running("columns")):
            return
        self._awaited = wanted

        def work(token: CancelToken, progress: Progress) -> tuple[int, ...]:
            table.load(sorted(number - 1 for number in wanted), token, progress)
            return tuple(wanted)

        self.tasks.start("columns", work, self.grid.columns_are_there, self.say_error)

    def say_error(self, error: YardcutError) -> None:
        """Say what went wrong; where only the cache is damaged, the source itself is well and is read again."""
        if isinstance(error, StoreDamagedError) and not self.tasks.is_running("open"):
            self.read_again()
            self.say("what the cache kept of the source is damaged: reading the source again …", "$warning")
            return
        super().say_error(error)

    def stop_reading_again(self) -> bool:
        """Stop reading the source anew, and take back the edit that asked for it; tells whether that was going on."""
        if self.bench is None or not self.tasks.stop("open"):
            return False
        self._not_read_again()
        self._show_grid()
        return True

    def _not_read_again(self) -> None:
        if self.bench is not None and self._spec != self._spec_before:
            self.bench.session.undo()
        self._spec = self._spec_before

    def _look_for_change(self) -> None:
        if self.table is not None and not self.tasks.is_running("watch"):
            self.tasks.start("watch", lambda token, progress: self._watch.changed(), self._seen)

    def _seen(self, changed: str) -> None:
        if changed and changed != self._change_said:
            self._change_said = changed
            self.say(f"{changed}; R reads it again, with the list applied", "$warning")
        elif not changed:
            self._change_said = ""
