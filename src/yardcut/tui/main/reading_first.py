"""Columns that a line being written looks at are read for all rows before the rest of the source is."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from collections.abc import Callable

    from yardcut.core.sources.columns_first import ColumnsFirst
    from yardcut.core.sources.spec import SourceSpec
    from yardcut.core.table.stored_table import Table
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.growing import Growing
    from yardcut.tui.main.stage import Stage

_PAUSE_SECONDS = 0.6
"""A column is read first once nobody has named another for so long."""


class ReadingFirst:
    """Reads them, and has the reading of all wait meanwhile. What goes wrong leaves things as they are."""

    def __init__(self, stage: Stage, growing: Growing) -> None:
        self._stage, self._growing = stage, growing
        self._known: ColumnsFirst | None = None
        self._wanted: frozenset[str] = frozenset()
        self._of: SourceSpec | None = None
        self._left_alone: set[frozenset[str]] = set()
        """What was not worth it, or could not be read: it is not tried again and again."""

    def table_with(self, spec: SourceSpec, names: frozenset[str]) -> Table | None:
        """Return all rows of a source, where the columns with some names are there."""
        known = self._known
        return known.table if known is not None and known.spec == spec and names <= known.names else None

    def want(self, now: Moment, names: frozenset[str], then: Callable[[], None]) -> None:
        """Read the columns with some names, unless they are being read, or are there as soon with all others."""
        rows, spec, table, known = self._growing.rows_so_far, now.spec, now.table, self._known
        is_under_way = self._stage.jobs.is_running(Job.FIRST) and self._of == spec and names <= self._wanted
        if rows is None or is_under_way or names in self._left_alone or self.table_with(spec, names) is not None:
            return
        self._wanted, self._of = names, spec

        def work(token: CancelToken, progress: Progress) -> ColumnsFirst | None:
            from yardcut.core.sources.columns_first import is_worth_reading_first, read_first

            token.wait(_PAUSE_SECONDS)
            if not is_worth_reading_first(spec, table, names):
                return None
            with rows.held():
                found = read_first(spec, names, known, token, progress)
            return found

        def there(found: ColumnsFirst | None) -> None:
            if found is None:
                self._left_alone.add(names)
            else:
                self._known = found
                then()

        self._stage.jobs.start(Job.FIRST, work, there, lambda error: self._left_alone.add(names))

    def end(self) -> None:
        """All of the source is there, or will not be."""
        self._stage.jobs.stop(Job.FIRST)
        known, self._known, self._of = self._known, None, None
        self._left_alone.clear()
        if known is not None:
            known.drop()
