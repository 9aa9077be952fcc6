"""Working out what the lines leave: results as they come, then the tree of the selected line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.results import LineResult
    from yardcut.core.run.tree_counts import Branch
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.screen import MainScreen

_Grown = tuple["LineResult", tuple["Branch", ...], tuple[str, ...]]


class Counting:
    """Starts anew whenever the lines change."""

    def __init__(self, screen: MainScreen) -> None:
        self._screen = screen
        self._grown: _Grown | None = None

    def changed(self, before: Moment, now: Moment) -> None:
        """Count again when the lines are others."""
        if now is before or now.lines is not before.lines:
            self._count(now)
        elif not now.is_counted and now.selected != before.selected and not self._screen.jobs.is_running(Job.RESULTS):
            self._count(now)  # it had been stopped
        elif now.is_counted and (now.selected != before.selected or now.results is not before.results):
            self._grow(now)

    def _count(self, moment: Moment) -> None:
        screen = self._screen
        screen.jobs.stop(Job.TREE)

        def work(token: CancelToken, progress: Progress) -> list[LineResult]:
            found: list[LineResult] = []
            for result in moment.executor.run_bound(moment.lines, token, progress):
                found.append(result)
                screen.jobs.tell(token, self._counted, tuple(found))
            return found

        screen.jobs.start(Job.RESULTS, work, failed=screen.say_error)

    def _counted(self, results: tuple[LineResult, ...]) -> None:
        if self._screen.desk is not None:
            self._screen.desk.counted(results)

    def stop(self) -> bool:
        """Stop counting; tells whether that was going on."""
        if not self._screen.jobs.stop(Job.RESULTS):
            return False
        self._screen.parts.looking.look()
        self._screen.say("stopped counting; another line or an edit goes on with it", "$warning")
        return True

    # the tree of the selected line

    def grown(self, moment: Moment) -> tuple[tuple[Branch, ...], tuple[str, ...]]:
        """Return the tree of the selected line and what it says of operations without an answer, as far as known."""
        if self._grown is None or self._grown[0] is not moment.result_at(moment.selected):
            return (), ()
        return self._grown[1:]

    def _grow(self, moment: Moment) -> None:
        result = moment.result_at(moment.selected)
        if result is None:
            return

        def work(token: CancelToken, progress: Progress) -> _Grown:
            from yardcut.core.run.tree_counts import branches
            from yardcut.core.run.unanswered import unanswered

            tree = tuple(branches(result, moment.executor.pieces, token))
            return result, tree, unanswered(result, moment.executor.runner, token)

        self._screen.jobs.start(Job.TREE, work, self._tree_is_there, self._screen.say_error)

    def _tree_is_there(self, grown: _Grown) -> None:
        self._grown = grown
        self._screen.parts.showing.show_list()
