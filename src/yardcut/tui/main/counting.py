"""Working out what the lines leave: results as they come, then the tree of the selected line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError, NotReadYetError, YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.main.showing import Grown
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.looking import Looking
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage


def _read(waiting: NotReadYetError, token: CancelToken, progress: Progress) -> None:
    from yardcut.core.run.executing.further_sources import read_second
    from yardcut.core.sources.spec import SourceSpec

    assert isinstance(waiting.source, SourceSpec)
    read_second(waiting.source, token, progress)


class Counting:
    """Starts anew whenever the lines change."""

    def __init__(self, stage: Stage, showing: Showing, looking: Looking) -> None:
        self._stage = stage
        self._showing = showing
        self._looking = looking

    def changed(self, before: Moment, now: Moment) -> None:
        """Count again when the lines are others."""
        has_other_lines = now is before or now.asked is not before.asked or now.looks is not before.looks
        if has_other_lines and now.results and now.is_counted and now.table is not before.table:
            self._stage.jobs.stop(Job.RESULTS)  # it came counted; what is under way is of fewer rows
            self._grow(now)
        elif has_other_lines:
            self._count(now)
        elif not now.is_counted and now.selected != before.selected and not self._stage.jobs.is_running(Job.RESULTS):
            self._count(now)  # it had been stopped
        elif now.is_counted and (now.selected != before.selected or now.results is not before.results):
            self._grow(now)
        if now.is_counted and now.results is not before.results:
            self._look_for_hints(now)

    def _look_for_hints(self, moment: Moment) -> None:
        """Look at the values for what is to be said quietly of the lines, when all of the source is there."""
        if moment.table.share_read < 1:
            return
        showing, jobs = self._showing, self._stage.jobs
        unknown = [result for index, result in enumerate(moment.results) if index not in showing.hints]
        if not unknown:
            return

        def work(token: CancelToken, progress: Progress) -> None:
            from yardcut.core.run.hinting.line_hints import line_hints

            for result in unknown:
                if line_hints(result, moment.executor, token):
                    jobs.tell(token, lambda _: showing.show_list(), result)

        jobs.start(Job.HINTS, work, failed=self._stage.say_error)

    def _count(self, moment: Moment) -> None:
        stage = self._stage
        stage.jobs.stop(Job.TREE)
        stage.jobs.stop(Job.HINTS)

        found: list[LineResult] = []
        bound = (*moment.asked, *moment.looks)
        waiting = next((line.error for line in bound if isinstance(line.error, NotReadYetError)), None)

        def work(token: CancelToken, progress: Progress) -> list[LineResult]:
            if waiting is not None:
                _read(waiting, token, progress)
                stage.jobs.tell(token, self._read, moment)
                return found
            looks = [line for line in moment.looks if line.error is None]
            for result in moment.executor.run_bound([*moment.asked, *looks], token, progress):
                found.append(result)
                stage.jobs.tell(token, self._counted, tuple(found))
            return found

        def failed(error: YardcutError) -> None:
            stage.say_error(error)
            if stage.desk is None:
                return
            if waiting is not None:
                index = next((at for at, line in enumerate(moment.lines) if line.error is waiting), None)
                if index is not None:
                    stage.desk.found_wrong(index, ListError(error.message, mend=error.mend))
            elif isinstance(error, ListError) and len(found) < len(moment.lines):
                stage.desk.found_wrong(len(found), error)

        stage.jobs.start(Job.RESULTS, work, failed=failed)

    def _read(self, moment: Moment) -> None:
        """Bind the lines again: a second table is read now."""
        desk = self._stage.desk
        if desk is not None and desk.now.asked is moment.asked:
            desk.bind_again()

    def _counted(self, results: tuple[LineResult, ...]) -> None:
        if self._stage.desk is not None:
            self._stage.desk.counted(results)

    def stop(self) -> bool:
        """Stop counting; tells whether that was going on."""
        if not self._stage.jobs.stop(Job.RESULTS):
            return False
        self._looking.look()
        self._stage.say("stopped counting; another line or an edit goes on with it", "$warning")
        return True

    def _grow(self, moment: Moment) -> None:
        """Work out the tree of the selected line, and what it says of operations without an answer."""
        result = moment.result_at(moment.selected)
        if result is None:
            return

        def work(token: CancelToken, progress: Progress) -> Grown:
            from yardcut.core.run.explaining.tree_counts import branches
            from yardcut.core.run.explaining.unanswered import unanswered

            tree = tuple(branches(result, moment.executor, token))
            return Grown(result, tree, unanswered(result, moment.executor.runner, token))

        self._stage.jobs.start(Job.TREE, work, self._showing.show_grown, self._stage.say_error)
