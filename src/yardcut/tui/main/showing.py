"""From the moment of now to the panels: each is told its state, and repaints only what differs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.tui.desk.view import View
from yardcut.tui.main.shown import header_state, list_state, size_of
from yardcut.tui.panels.list_state import ListState
from yardcut.tui.widgets.header import HeaderState

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.screen import MainScreen


class Showing:
    """Shows list, grid and header."""

    def __init__(self, screen: MainScreen) -> None:
        self._screen = screen
        self._shown: tuple[object, ...] = ()

    def show_unopened(self) -> None:
        """Show what can be said before there is a list."""
        table = self._screen.parts.reading.table
        label = self._screen.opening.spec.label
        self._screen.list_panel.show(ListState(source=label, source_rows=None if table is None else table.rows))
        self.show_work()

    def changed(self, before: Moment, now: Moment) -> None:
        """Show another moment."""
        self.show_list()
        self.show_work()
        self.show_rows()

    def show_list(self) -> None:
        """Show the lines with what is known of them."""
        desk = self._screen.desk
        if desk is not None:
            self._screen.list_panel.show(list_state(desk.now, *self._screen.parts.counting.grown(desk.now)))

    def show_work(self) -> None:
        """Show in the header what is open and what is being worked on."""
        screen = self._screen
        work = screen.jobs.under_way()
        if screen.desk is not None:
            screen.header.show(header_state(screen.desk.now, work))
            return
        table = screen.parts.reading.table
        size = "" if table is None else size_of(table)
        screen.header.show(
            HeaderState(screen.opening.spec.label, size, work=work or ("opening" if table is None else ""))
        )

    def show_rows(self) -> None:
        """Show in the grid the rows looked at, unless it shows what a line being written would do."""
        from yardcut.tui.desk.grids import moment_source

        screen = self._screen
        if screen.desk is None or getattr(screen.mode, "shows_rows", False):
            return
        now = screen.desk.now
        wanted = (now.table, now.result_at(now.selected), now.selected, now.view)
        if wanted == self._shown:
            return
        source = moment_source(now)
        if source is not None:
            self._shown = wanted
            screen.grid.show(source, same_table=True)

    def forget_rows(self) -> None:
        """The grid shows other rows than those of the moment; they are shown again at the next chance."""
        self._shown = ()

    def shows(self, moment: Moment) -> bool:
        """Tell whether the rows in the grid are those of a moment."""
        return self._shown == (moment.table, moment.result_at(moment.selected), moment.selected, moment.view)

    def leave_offcut(self) -> bool:
        """Go back from an offcut to the rows; tells whether one was shown."""
        desk = self._screen.desk
        if desk is None or desk.now.view is not View.OFFCUT:
            return False
        desk.look_at(View.ROWS)
        return True
