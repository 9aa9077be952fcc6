"""From the moment of now to the panels: each is told its state, and repaints only what differs."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.desk.view import View
from yardcut.tui.main.shown import header_state, list_state, size_of
from yardcut.tui.panels.list_state import CountsOfAll, ListState
from yardcut.tui.widgets.header import HeaderState

if TYPE_CHECKING:
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.tree_counts import Branch
    from yardcut.core.run.hinting.hint import Hint
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.stage import Stage


@dataclass(frozen=True, slots=True, eq=False)
class Grown:
    """What is said of a line in full, once it is worked out: its tree, and operations in it without an answer."""

    result: LineResult
    tree: tuple[Branch, ...]
    unanswered: tuple[str, ...]


class Showing:
    """Shows list, grid and header."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage
        self._shown: tuple[object, ...] = ()
        self._grown: Grown | None = None
        self._counts_of_all = CountsOfAll()

    def show_unopened(self) -> None:
        """Show what can be said before there is a list."""
        table = self._stage.table
        label = self._stage.opening.spec.label
        self._stage.list_panel.show(ListState(source=label, source_rows=None if table is None else table.rows))
        self.show_work()

    def changed(self, before: Moment, now: Moment) -> None:
        """Show another moment."""
        self.show_list()
        self.show_work()
        self.show_rows()

    def show_list(self) -> None:
        """Show the lines with what is known of them."""
        desk = self._stage.desk
        if desk is not None:
            grown = self._grown
            if grown is None or grown.result is not desk.now.result_at(desk.now.selected):
                state = list_state(desk.now, (), (), self.hints)
            else:
                state = list_state(desk.now, grown.tree, grown.unanswered, self.hints)
            self._stage.list_panel.show(replace(state, of_all=self._counts_of_all))

    @property
    def hints(self) -> dict[int, tuple[Hint, ...]]:
        """What is known to be said of the lines of now, by their index."""
        desk = self._stage.desk
        if desk is None:
            return {}
        from yardcut.core.run.hinting.line_hints import known_hints

        return {
            index: hints
            for index, result in enumerate(desk.now.results)
            if (hints := known_hints(result, desk.now.executor)) is not None
        }

    def show_counts_of_all(self, counts: CountsOfAll) -> None:
        """Show what is known of rows that are still coming: how many there are, and how many the first lines leave."""
        self._counts_of_all = counts
        self.show_list()

    def show_grown(self, grown: Grown) -> None:
        """Show what grew out of the selected line's result."""
        self._grown = grown
        self.show_list()

    def show_work(self) -> None:
        """Show in the header what is open and what is being worked on."""
        stage = self._stage
        work = stage.jobs.under_way()
        if stage.desk is not None:
            state = header_state(stage.desk.now, work, stage.slice_written)
            stage.header.show(replace(state, saved=" · ".join(filter(None, (state.saved, stage.noted)))))
            return
        table = stage.table
        size = "" if table is None else size_of(table)
        stage.header.show(
            HeaderState(stage.opening.spec.label, size, work=work or ("opening" if table is None else ""))
        )

    def show_rows(self) -> None:
        """Show in the grid the rows looked at, unless it shows what a line being written would do."""
        from yardcut.tui.desk.grids import moment_source

        stage = self._stage
        if stage.desk is None or (stage.mode is not None and stage.mode.shows_rows):
            return
        now = stage.desk.now
        wanted = _wanted(now)
        if wanted == self._shown:
            return
        source = moment_source(now)
        if source is not None:
            self._shown = wanted
            stage.grid.show(source, same_table=True)

    def forget_rows(self) -> None:
        """The grid shows other rows than those of the moment; they are shown again at the next chance."""
        self._shown = ()

    def shows(self, moment: Moment) -> bool:
        """Tell whether the rows in the grid are those of a moment."""
        return self._shown == _wanted(moment)

    def leave_offcut(self) -> bool:
        """Go back from an offcut to the rows; tells whether one was shown."""
        desk = self._stage.desk
        if desk is None or desk.now.view is View.ROWS:
            return False
        desk.look_at(View.ROWS)
        return True


def _wanted(moment: Moment) -> tuple[object, ...]:
    """Return what tells the rows a moment looks at from any others."""
    result = moment.result_at(moment.selected)
    return (
        moment.table,
        result,
        moment.selected,
        moment.view,
        moment.part,
        moment.looked if moment.is_looking else None,
    )
