"""While a source comes: how many rows there are in all and how many lines leave, said by its server or estimated.

A server counts them. Of a file that is read for the first time rows from all over it are looked at before: by these
it is said about how many there will be.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.standing import is_on_a_server
from yardcut.core.sources.spec import KeyLine, QueryLine, TableLine
from yardcut.tui.panels.list_state import CountsOfAll
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.core.cutlist.model import CutList
    from yardcut.core.sources.sampled_places import SampledPlaces
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.showing import Showing
    from yardcut.tui.main.stage import Stage

_SAID, _ESTIMATED = "in all, says the server", "in all, by places of the file"
_OF_SEVERAL = f"{_ESTIMATED}s"
_NONE = CountsOfAll()


class CountingAll:
    """Asks anew when the lines change, until all rows are here; what goes wrong leaves the counts unsaid."""

    def __init__(self, stage: Stage, showing: Showing) -> None:
        self._stage, self._showing = stage, showing
        self._asked: tuple[CutList, int] | None = None
        self._places: tuple[SourceSpec, SampledPlaces | None] | None = None

    def changed(self, before: Moment, now: Moment) -> None:
        """Ask what is not known of the lines of now."""
        is_coming = now.table.share_read < 1 and now.part is None
        asked = (now.cut_list, now.cut_index) if is_coming else None
        if asked == self._asked:
            return
        self._asked = asked
        self._stage.jobs.stop(Job.ASK)
        self._showing.show_counts_of_all(_NONE)
        if not is_coming:
            self._places = None
        elif not is_on_a_server(now.spec):
            self._estimate(now)
        elif all(isinstance(line, TableLine | QueryLine | KeyLine) for line in now.spec.lines):
            self._ask(now)

    def _ask(self, now: Moment) -> None:
        if any(line.error is not None for line in now.asked):
            return

        def work(token: CancelToken, progress: Progress) -> CountsOfAll:
            from yardcut.core.sql.counts_there import counts_of_all

            found = counts_of_all(now.spec.paths()[0], now.asked, token)
            rows = [] if found is None else [found[0], *(line.rows_out for line in found[1])]
            return CountsOfAll(_SAID, tuple(f"{count:,}" for count in rows))

        self._start(work)

    def _estimate(self, now: Moment) -> None:
        desk = self._stage.desk
        assert desk is not None

        def work(token: CancelToken, progress: Progress) -> CountsOfAll:
            from yardcut.core.run.looking.estimated_counts import estimated_counts
            from yardcut.tui.desk.moments import on_table

            places = self._places_of(now, token)
            if places is None:
                return _NONE
            there = on_table(now, places.table, desk.executor_of(places.table), {})
            found = estimated_counts(places, there.asked, there.executor, token)
            said = _ESTIMATED if len(now.spec.paths()) == 1 else _OF_SEVERAL
            return CountsOfAll(said, tuple("" if count is None else f"~{count:,}" for count in found))

        self._start(work)

    def _places_of(self, now: Moment, token: CancelToken) -> SampledPlaces | None:
        from yardcut.core.sources.sampled_places import sampled_places

        known = self._places
        if known is not None and known[0] == now.spec:
            return known[1]
        found = sampled_places(now.spec.paths(), now.spec, now.table, token)
        self._places = now.spec, found
        return found

    def _start(self, work: Callable[[CancelToken, Progress], CountsOfAll]) -> None:
        def unsaid(error: Exception) -> None:
            self._showing.show_counts_of_all(_NONE)

        self._stage.jobs.start(Job.ASK, work, self._showing.show_counts_of_all, unsaid)
