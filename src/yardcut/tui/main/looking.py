"""Figures about the columns on screen: gauge and small distributions, always of the very rows the grid shows."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.main.shown import gauge_state
from yardcut.tui.number_marks import marks
from yardcut.tui.panels.gauge import GaugeState
from yardcut.tui.widgets.grid.grid_beside import Beside
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.run.looking.tally_totals import Totals
    from yardcut.tui.desk.column_looks import Looks, Shape
    from yardcut.tui.desk.figured_rows import Rows
    from yardcut.tui.desk.grids import FrameSource
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage


class Looking:
    """Asks for what is not known, and shows what is."""

    def __init__(self, stage: Stage, showing: Showing) -> None:
        self._stage = stage
        self._showing = showing
        self._asked: object = None
        self._shaped = ""
        self._told: object = None
        self._shapes: dict[Hashable, Shape] = {}
        self._grows = False

    def changed(self, before: Moment, now: Moment) -> None:
        """Forget what was worked out of another table, and look at what is shown now."""
        self._grows = now.table is not before.table and before.table.share_read < 1
        if self._stage.looks is None or now.table is not before.table:
            from yardcut.tui.desk.column_looks import Looks

            self._stage.looks = Looks(now.executor.runner)
        self.look()

    def look(self) -> None:
        """Show the figures of the columns on screen as far as they are known, and work the others out."""
        grid, looks = self._stage.grid, self._stage.looks
        source = self._source()
        if source is None or looks is None or grid.cursor_column is None:
            self._stage.gauge.show(GaugeState())
            return
        column = source.rows.frame.columns[grid.viewport.column]
        cell = grid.cursor_cell()
        if self._is_behind():
            # the rows on screen are still those of before; no figure is shown that will not be true in a moment
            state = gauge_state(grid.cursor_column, source.label, None, None, None)
            if not self._stage.jobs.is_running(Job.RESULTS):
                state = replace(state, waiting="not counted")
            self._stage.gauge.show(state)
            grid.show_figures({}, {})
            return
        now = looks.known_summary(source.rows, column)
        above, before = self._above(source), None
        if above is not None:
            before = looks.known_summary(above, column)
        about = self._about(column)
        if now is not None or not self._grows or about != self._told:
            # of fewer rows, which they name, figures stay until those of more are there
            state = gauge_state(grid.cursor_column, source.label, cell[0] if cell else None, now, before)
            self._stage.gauge.show(replace(state, reason=self._reason(source)))
            self._told = None if now is None else about
        if now is None or (above is not None and before is None):
            self._ask_summary(source.rows, above, column, looks)
        self._look_at_shapes(source, looks)

    def _about(self, column: ShownColumn) -> object:
        """Return what tells the gauge from that of another column or line, whatever table it is of."""
        desk = self._stage.desk
        return (column.id, None if desk is None else (desk.now.selected, desk.now.view))

    def _source(self) -> FrameSource | None:
        source = self._stage.grid.source
        return source if hasattr(source, "rows") else None  # type: ignore[return-value]

    def _reason(self, source: FrameSource) -> str:
        """Return why the row under the cursor is gone, among rows that are."""
        row = self._stage.grid.viewport.row_position
        if not source.has_reasons or row >= source.row_count:
            return ""
        reasons = source.page(row, row + 1, [self._stage.grid.viewport.column]).reasons
        return reasons[0] if reasons else ""

    def _is_behind(self) -> bool:
        """Tell whether the grid still shows rows that are no longer those wanted."""
        stage = self._stage
        if stage.desk is None or (stage.mode is not None and stage.mode.shows_rows):
            return False
        return not self._showing.shows(stage.desk.now)

    def _above(self, source: FrameSource) -> Rows | None:
        """Return the rows above the line, where they are others and have the column too."""
        above = source.above
        if above is None or above.frame.rows.count == source.rows.frame.rows.count:
            return None
        return above

    def _ask_summary(self, rows: Rows, above: Rows | None, column: ShownColumn, looks: Looks) -> None:
        wanted = (rows.fingerprint, column.value)
        if wanted == self._asked and self._stage.jobs.is_running(Job.GAUGE):
            return
        self._asked = wanted

        def work(token: CancelToken, progress: Progress) -> None:
            looks.summary(rows, column, token, progress)
            if above is not None:
                self._stage.jobs.tell(token, lambda _: self.look(), None)
                looks.summary(above, column, token, progress)

        self._stage.jobs.start(Job.GAUGE, work, lambda _: self.look(), self._stage.say_error)

    def _look_at_shapes(self, source: FrameSource, looks: Looks) -> None:
        """Show the small distributions that are known, and work out those of columns on screen that are not."""
        grid, jobs = self._stage.grid, self._stage.jobs
        known: dict[Hashable, Shape] = {}
        missing: list[ShownColumn] = []
        for place in grid.visible_columns():
            column = source.rows.frame.columns[place]
            shape = looks.known_shape(source.rows, column)
            if shape is None:
                missing.append(column)
            else:
                known[column.id] = shape
        if missing and self._grows and source.tallied is None:
            known = self._shapes  # those of fewer rows stay till then
        self._show_figures(known, self._totals(source))
        if not missing or (jobs.is_running(Job.SHAPES) and self._shaped == source.rows.fingerprint):
            return
        self._shaped = source.rows.fingerprint

        def work(token: CancelToken, progress: Progress) -> None:
            for column in missing:
                looks.shape(source.rows, column, token, progress)

        jobs.start(Job.SHAPES, work, lambda _: self.look(), self._stage.say_error)

    def _show_figures(self, known: dict[Hashable, Shape], totals: Totals | None) -> None:
        self._shapes = known
        shown, beside = marks().shown, None
        if totals is not None and totals.beside:
            beside = Beside.of([(name, tuple(map(shown, rows)), shown(last)) for name, rows, last in totals.beside])
        below: dict[Hashable, str] = (
            {} if totals is None else {number: shown(text) for number, text in totals.below.items()}
        )
        self._stage.grid.show_figures(known, below, beside)

    def _totals(self, source: FrameSource) -> Totals | None:
        """Return what a tally comes to over all rows, as far as it is known, and have it worked out."""
        from yardcut.core.run.looking.tally_totals import has_totals, known_totals, tally_totals

        result, desk = source.tallied, self._stage.desk
        if result is None or desk is None or not has_totals(result):
            return None
        executor = desk.now.executor
        known = known_totals(result, executor)
        if known is not None:
            return known
        if not self._stage.jobs.is_running(Job.TOTALS):
            self._stage.jobs.start(
                Job.TOTALS, lambda token, progress: tally_totals(result, executor, token), lambda _: self.look(),
                self._stage.say_error,
            )  # fmt: skip
        return None


def column_looked_at(stage: Stage) -> tuple[FrameSource, Looks, ShownColumn] | None:
    """Return the rows of the selected line, what works figures out of them, and the column under the cursor in them.

    The rows are those that a line would meet, without what is for the eye only. It is said where that is not known, or
    not there.
    """
    looked_at, about = rows_looked_at(stage, as_cut=True), stage.grid.cursor_column
    if looked_at is None or about is None:
        return None
    source, looks = looked_at
    shown = next((each for each in source.rows.frame.columns if each.number == about.number), None)
    if shown is None:
        stage.say("this column is not there as of the line that is selected")
        return None
    return source, looks, shown


def rows_looked_at(stage: Stage, *, as_cut: bool = False) -> tuple[FrameSource, Looks] | None:
    """Return the rows of the selected line, and what works figures out of them; say so while they are not known.

    With ``as_cut`` look lines have no say.
    """
    from yardcut.tui.desk.grids import moment_source

    moment = None if stage.desk is None else stage.desk.now
    if moment is not None and as_cut:
        moment = replace(moment, looks=())
    source = None if moment is None else moment_source(moment)
    if source is None or stage.looks is None:
        stage.say("the rows are still being counted")
        return None
    return source, stage.looks
