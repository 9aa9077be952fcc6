"""While a table of a server comes, the server is asked how many rows there are in all, and how many lines leave."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.standing import is_on_a_server
from yardcut.core.sources.spec import KeyLine, QueryLine, TableLine
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.cutlist.model import CutList
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage


class CountingThere:
    """Asks anew when the lines change, until all rows are here; an error of the server leaves the counts unsaid."""

    def __init__(self, stage: Stage, showing: Showing) -> None:
        self._stage, self._showing = stage, showing
        self._asked: tuple[CutList, int] | None = None

    def changed(self, before: Moment, now: Moment) -> None:
        """Ask what is not known of the lines of now."""
        is_coming = now.table.share_read < 1 and is_on_a_server(now.spec)
        asked = (now.cut_list, now.cut_index) if is_coming else None
        if asked == self._asked:
            return
        self._asked = asked
        self._stage.jobs.stop(Job.ASK)
        self._showing.show_counts_of_all(())
        is_as_there = all(isinstance(line, TableLine | QueryLine | KeyLine) for line in now.spec.lines)
        if is_coming and is_as_there and all(line.error is None for line in now.asked):
            self._ask(now)

    def _ask(self, now: Moment) -> None:
        def work(token: CancelToken, progress: Progress) -> tuple[int, ...]:
            from yardcut.core.sql.counts_there import counts_of_all

            found = counts_of_all(now.spec.paths()[0], now.asked, token)
            return () if found is None else (found[0], *(line.rows_out for line in found[1]))

        def unsaid(error: Exception) -> None:
            self._showing.show_counts_of_all(())

        self._stage.jobs.start(Job.ASK, work, self._showing.show_counts_of_all, unsaid)
