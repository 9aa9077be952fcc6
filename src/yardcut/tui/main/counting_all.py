"""While a source comes: how many rows there are in all and how many lines leave, counted, said or estimated.

A server counts them. Of a file that is read for the first time rows from all over it are looked at before: by these
it is said about how many there will be. The columns that lines look at are read first, and then it is known.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.standing import is_on_a_server
from yardcut.core.sources.spec import KeyLine, QueryLine, TableLine
from yardcut.tui.main.reading_first import ReadingFirst
from yardcut.tui.panels.list_state import CountsOfAll
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from yardcut.core.cutlist.model import CutList
    from yardcut.core.run.executing.bound_lines import BoundLine
    from yardcut.core.sources.sampled_places import SampledPlaces
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.desk.trials import Trial
    from yardcut.tui.main.growing import Growing
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage

_SAID, _COUNTED, _ESTIMATED = "in all, says the server", "in all", "in all, by places of the file"
_OF_SEVERAL = f"{_ESTIMATED}s"
_NONE = CountsOfAll()


class CountingAll:
    """Asks anew when the lines change, until all rows are here; what goes wrong leaves the counts unsaid."""

    def __init__(self, stage: Stage, showing: Showing, growing: Growing) -> None:
        self._stage, self._showing = stage, showing
        self._first = ReadingFirst(stage, growing)
        self._asked: tuple[CutList, int] | None = None
        self._places: tuple[SourceSpec, SampledPlaces | None] | None = None
        self._tried: tuple[Trial, Callable[[str], None]] | None = None
        self._told: tuple[object, str] | None = None
        stage.when_tried = self.tried

    def changed(self, before: Moment, now: Moment) -> None:
        """Ask what is not known of the lines of now."""
        is_coming = _is_coming(now)
        asked = (now.cut_list, now.cut_index) if is_coming else None
        if asked == self._asked:
            return
        self._asked = asked
        self._stage.jobs.stop(Job.ASK)
        self._showing.show_counts_of_all(_NONE)
        if not is_coming:
            self._stage.jobs.stop(Job.TRY_ON_ALL)
            self._places = self._tried = self._told = None
            self._first.end()
        elif not is_on_a_server(now.spec):
            self._count(now)
            if now is not before:
                self._first.want(now, _columns_of(now.asked, now.table), self._there)
        elif all(isinstance(line, TableLine | QueryLine | KeyLine) for line in now.spec.lines):
            self._ask(now)

    def tried(self, trial: Trial, tell: Callable[[str], None]) -> None:
        """Tell what a line being written would do to all rows, as far as it is known, and have its columns read."""
        desk, self._tried = self._stage.desk, None
        if desk is None or not _is_coming(desk.now) or is_on_a_server(desk.now.spec) or not _is_counted(trial):
            if trial.is_whole:
                tell("")
            return
        self._tried = trial, tell
        assert trial.result is not None
        self._count_tried(desk.now, trial, tell)
        lines = (*desk.now.lines[: trial.index], trial.result.line)
        self._first.want(desk.now, _columns_of(lines, desk.now.table), self._there)

    def _there(self) -> None:
        """Columns are there that were read first: count what looks at them."""
        desk = self._stage.desk
        if desk is None or not _is_coming(desk.now):
            return
        self._count(desk.now)
        if self._tried is not None:
            self._count_tried(desk.now, *self._tried)

    # the lines of the list

    def _ask(self, now: Moment) -> None:
        if any(line.error is not None for line in now.asked):
            return

        def work(token: CancelToken, progress: Progress) -> CountsOfAll:
            from yardcut.core.sql.counts_there import counts_of_all

            found = counts_of_all(now.spec.paths()[0], now.asked, token)
            rows = [] if found is None else [found[0], *(line.rows_out for line in found[1])]
            return CountsOfAll(_SAID, tuple(f"{count:,}" for count in rows))

        self._start(work)

    def _count(self, now: Moment) -> None:
        table = self._first.table_with(now.spec, _columns_of(now.asked, now.table))
        self._start(lambda token, progress: self._counts(now, table, lambda there: there.asked, token))

    def _start(self, work: Callable[[CancelToken, Progress], CountsOfAll]) -> None:
        def unsaid(error: Exception) -> None:
            self._showing.show_counts_of_all(_NONE)

        self._stage.jobs.start(Job.ASK, work, self._showing.show_counts_of_all, unsaid)

    # a line being written

    def _count_tried(self, now: Moment, trial: Trial, tell: Callable[[str], None]) -> None:
        assert trial.result is not None
        lines = (*now.lines[: trial.index], trial.result.line)
        table = self._first.table_with(now.spec, _columns_of(lines, now.table))
        asked = (trial.draft, now.cut_list, now.cut_index, table)
        if self._told is not None and self._told[0] == asked:  # more rows are there, and it is what it was
            tell(self._told[1])
            return

        def work(token: CancelToken, progress: Progress) -> str:
            from yardcut.tui.desk.trials import lines_on

            counts = self._counts(now, table, lambda there: lines_on(there, trial.draft), token)
            before, left = counts.of_line(trial.index - 1), counts.of_line(trial.index)
            return f"{left} of {before} {counts.said}" if before and left else ""

        def found(said: str) -> None:
            self._told = asked, said
            tell(said)

        self._stage.jobs.start(Job.TRY_ON_ALL, work, found, lambda error: None)

    # both, in threads

    def _counts(
        self, now: Moment, table: Table | None, lines: Callable[[Moment], Sequence[BoundLine]], token: CancelToken
    ) -> CountsOfAll:
        """Count lines over all rows, where the columns they look at are there; else say about how many they leave.

        ``lines`` gives them bound to the table of another moment.
        """
        from yardcut.core.run.executing.executor import Executor
        from yardcut.core.run.looking.estimated_counts import counts_as_far_as_read, estimated_counts
        from yardcut.core.scanning.local import LocalRunner
        from yardcut.tui.desk.moments import on_table

        if table is not None:
            there = on_table(now, table, Executor(LocalRunner(table)), {})
            exact = counts_as_far_as_read(lines(there), there.executor, token)
            return CountsOfAll(_COUNTED, tuple(f"{count:,}" for count in (table.rows, *exact)))
        places = self._places_of(now, token)
        if places is None:
            return _NONE
        there = on_table(now, places.table, Executor(LocalRunner(places.table)), {})
        found = estimated_counts(places, lines(there), there.executor, token)
        said = _ESTIMATED if len(now.spec.paths()) == 1 else _OF_SEVERAL
        return CountsOfAll(said, tuple("" if count is None else f"~{count:,}" for count in found))

    def _places_of(self, now: Moment, token: CancelToken) -> SampledPlaces | None:
        from yardcut.core.sources.sampled_places import sampled_places

        known = self._places
        if known is not None and known[0] == now.spec:
            return known[1]
        found = sampled_places(now.spec.paths(), now.spec, now.table, token)
        self._places = now.spec, found
        return found


def _is_coming(now: Moment) -> bool:
    return now.table.share_read < 1 and now.part is None


def _is_counted(trial: Trial) -> bool:
    """Tell whether the rows that a line leaves are its point, and known."""
    from yardcut.core.language.verbs.verb import Effect

    verb = None if trial.result is None else trial.result.line.verb
    return trial.is_whole and verb is not None and verb.effect in (Effect.REMOVES, Effect.GATHERS)


def _columns_of(lines: Sequence[BoundLine], table: Table) -> frozenset[str]:
    """Return the names of the columns that lines look at, up to one that puts rows together or is wrong."""
    from yardcut.core.language.verbs.verb import Effect
    from yardcut.core.scanning.columns_read import columns_read

    numbers = set[int]()
    for line in lines:
        if line.error is not None:
            break
        if line.bound is not None:
            numbers |= columns_read(line.bound.body)
        if line.verb is not None and line.verb.effect is Effect.GATHERS and not line.off:
            break
    return frozenset(table.columns[number].name for number in numbers if number < len(table.columns))
