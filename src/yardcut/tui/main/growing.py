"""While a source is being read: the rows read so far are a table, and more of them take its place, counted already."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError, NotReadYetError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.keys.focus import Focus, Need
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.sources.store.rows_so_far import RowsSoFar
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.actions import Action
    from yardcut.tui.main.stage import Stage

_COUNTS = (Job.SESSION, Job.GROW, Job.RESULTS, Job.TRY)
_FIGURES = (Job.TREE, Job.GAUGE, Job.SHAPES, Job.TOTALS, Job.FIND)
"""What is worked out of the rows so far: more of them come when counts are done, or they never would be, and figures
too, unless these take long."""
_PATIENCE_SECONDS = 1.5


class Growing:
    """Lives as long as the first reading of a source. ``begin_desk`` is called with the first rows."""

    def __init__(self, stage: Stage, begin_desk: Callable[[Table], None]) -> None:
        self._stage = stage
        self._begin_desk = begin_desk
        self._rows: RowsSoFar | None = None
        self._taken_at: float | None = None
        self.is_coming = False
        """Whether all of the source will be there by itself."""
        self._later: Action | None = None
        stage.dispatcher.put_off = self.put_off

    def begin(self) -> Callable[[CancelToken], RowsSoFar]:
        """Return what makes, in the thread that reads, the one who asks for the rows so far."""
        self.is_coming = True

        def made(token: CancelToken) -> RowsSoFar:
            from yardcut.core.sources.store.rows_so_far import RowsSoFar

            self._rows = RowsSoFar(lambda table: self._stage.jobs.tell(token, self._there, table))
            return self._rows

        return made

    @property
    def rows_so_far(self) -> RowsSoFar | None:
        """What hands on the rows while all of the source is being read."""
        return self._rows

    def end(self) -> None:
        """The reading is over, or is given up."""
        self._rows, self.is_coming = None, False

    def tick(self) -> None:
        """Ask for more rows when the last are taken in, and nobody is in the middle of something with them."""
        stage = self._stage
        if self._rows is None or self._taken_at is None or any(map(stage.jobs.is_running, _COUNTS)):
            return
        is_soon = time.monotonic() - self._taken_at < _PATIENCE_SECONDS
        if is_soon and any(map(stage.jobs.is_running, _FIGURES)):
            return
        is_free = stage.desk is not None and stage.desk.now.part is None and len(stage.app.screen_stack) == 1
        if is_free and (stage.mode is None or stage.mode.focus is Focus.PROMPT):
            self._taken_at = None
            self._rows.go_on()

    def _there(self, table: Table) -> None:
        stage = self._stage
        if stage.desk is None:
            stage.table = table
            self._taken()
            self._begin_desk(table)
        else:
            self._count(stage.desk.now, table, self._taken)

    def _taken(self) -> None:
        self._taken_at = time.monotonic()

    def take_whole(self, table: Table, then: Callable[[], None]) -> None:
        """Take all of the source in the place of its first rows."""
        self._rows = None
        assert self._stage.desk is not None

        def taken() -> None:
            from yardcut.tui.cards.card import Card

            self.end()
            for card in self._stage.app.screen_stack:
                if isinstance(card, Card) and card.unmet(Need.WHOLE):
                    card.say("all of it is read now: open this again for its figures")
            then()

        self._count(self._stage.desk.now, table, taken)

    def _count(self, now: Moment, table: Table, then: Callable[[], None]) -> None:
        """Count the lines on another table, and go on with it when that is done."""
        desk = self._stage.desk
        assert desk is not None
        patterns = desk.patterns_met()

        def work(token: CancelToken, progress: Progress) -> Moment | None:
            from yardcut.tui.desk.moments import on_table, with_results, with_wrong

            grown = on_table(now, table, desk.executor_of(table), patterns)
            if any(isinstance(line.error, NotReadYetError) for line in (*grown.asked, *grown.looks)):
                return None
            looks = [line for line in grown.looks if line.error is None]
            results = []
            try:
                for result in grown.executor.run_bound([*grown.asked, *looks], token, progress):
                    results.append(result)
            except ListError as error:
                at = len(results)
                known = with_results(grown, results)
                return with_wrong(known, at, error) if at < len(grown.lines) else known
            return with_results(grown, results)

        def done(grown: Moment | None) -> None:
            stage = self._stage
            assert stage.desk is not None
            stage.table = table
            is_still = stage.desk.now.asked is now.asked and stage.desk.now.looks is now.looks
            if grown is not None and is_still:
                stage.desk.grow(grown)
            else:  # the list changed meanwhile
                stage.desk.use(table)
            then()

        self._stage.jobs.start(Job.GROW, work, done, lambda error: done(None))

    # what waits for all of the source

    def put_off(self, action: Action) -> None:
        """Do an action that needs all of the source when it is there."""
        if action.need in (Need.WHOLE, Need.COUNTED):
            self._later = action if self.is_coming else None

    def do_what_was_put_off(self) -> None:
        """Do it, unless somebody is in the middle of something else by now."""
        action, self._later = self._later, None
        if action is not None and self._stage.mode is None and len(self._stage.app.screen_stack) == 1:
            self._stage.dispatcher.carry_out(action)

    def forget(self) -> bool:
        """Do it not; tells whether anything was put off."""
        had, self._later = self._later is not None, None
        return had
