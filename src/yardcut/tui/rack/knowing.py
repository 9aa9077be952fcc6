"""What the rack knows of the columns: figures over the rows that pass, and the values of a few of these rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from yardcut.core.language.helping.column_finding import Figures
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.rack.samples import SampleRows, Samples
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.meaning.bound import ShownColumn
    from yardcut.core.profile.summary import Summary
    from yardcut.tui.desk.column_looks import Looks
    from yardcut.tui.desk.figured_rows import Rows
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.rack.rack_page import RackPage

_TOLD_SECONDS = 0.2


class Knowing:
    """Worked out in threads, what is on screen first. Nothing is known of rows that are not those of now."""

    def __init__(self, rack: RackPage, looks: Looks) -> None:
        self._rack = rack
        self._looks = looks
        self._rows: SampleRows | None = None
        self._position: int | None = None
        self._grid_position = 0
        self._told_soon = False
        self.values: Samples = {}
        self.summaries: dict[int, Summary] = {}

    @property
    def label(self) -> str:
        """Say which rows the values are of."""
        return self._rows.label() if self._rows is not None else "the rows are being counted"

    def figures(self, number: int) -> Figures | None:
        """Return the figures of a column by its number, if they are known."""
        summary = self.summaries.get(number)
        return None if summary is None else Figures(summary.rows, summary.missing, summary.distinct)

    def missing(self) -> dict[int, int]:
        """Return how many rows have no value, for the columns of which that is known."""
        return {number: summary.missing for number, summary in self.summaries.items()}

    def meet(self, rows: Rows | None, columns: Sequence[ShownColumn], grid_position: int) -> None:
        """Look at the rows that pass now, ``None`` while they are counted; the table's cursor stands at a position."""
        self._grid_position = grid_position
        if rows is None:
            self._forget()
        elif self._rows is None or not self._rows.are_of(rows, columns):
            self._forget()
            position = grid_position if self._position is None else self._position
            self._rows = SampleRows(rows, columns, position)
            self._read_values()
            self._summarise()

    def _forget(self) -> None:
        self._rack.jobs.stop(Job.PROFILE)
        self._rack.jobs.stop(Job.SAMPLES)
        self._rows, self.values, self.summaries = None, {}, {}

    # which rows

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "rack-rows": lambda: self._go(lambda rows: rows.step(1)),
            "rack-any-row": lambda: self._go(lambda rows: rows.anywhere()),
            "rack-grid-row": lambda: self._go(lambda rows: rows.go_to(self._grid_position)),
        }

    def _go(self, go: Callable[[SampleRows], None]) -> None:
        if self._rows is None:
            self._rack.say("the rows are still being counted", "$dim")
            return
        go(self._rows)
        self._position = self._rows.position
        self.values = {}  # those of the rows before are not those the title names
        self._read_values()
        self._rack.show_title()

    # in threads

    def _read_values(self) -> None:
        rows, first = self._rows, self._rack.numbers_on_screen()
        assert rows is not None

        def work(token: CancelToken, progress: Progress) -> None:
            for values in rows.read(first, token):
                self._rack.jobs.tell(token, self._met_values, values)

        self._rack.jobs.start(Job.SAMPLES, work, lambda _: self._rack.values_came())

    def _met_values(self, values: Samples) -> None:
        self.values |= values
        self._rack.list.refresh()

    def _summarise(self) -> None:
        rows = self._rows
        assert rows is not None

        def work(token: CancelToken, progress: Progress) -> None:
            waiting = {column.number: column for column in rows.rows.frame.columns}
            while waiting:
                token.check()
                on_screen = self._rack.numbers_on_screen()
                number = next((number for number in on_screen if number in waiting), next(iter(waiting)))
                found = self._looks.summary(rows.rows, waiting.pop(number), token, progress)
                self._rack.jobs.tell(token, self._summarised, (number, found))

        self._rack.jobs.start(Job.PROFILE, work)

    def _summarised(self, found: tuple[int, Summary]) -> None:
        self.summaries[found[0]] = found[1]
        self._rack.list.refresh()
        if not self._told_soon:  # of thousands of columns one after the other
            self._told_soon = True
            self._rack.set_timer(_TOLD_SECONDS, self._tell)

    def _tell(self) -> None:
        self._told_soon = False
        self._rack.figures_came()
