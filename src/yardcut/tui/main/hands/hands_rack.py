"""Opening the rack, and having the list say what is done there."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.desk.back_and_forth import said_of_step

if TYPE_CHECKING:
    from yardcut.core.language.helping.column_lists import ColumnList
    from yardcut.tui.desk.figured_rows import Rows
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.rack.rack import RackCard


class RackHands:
    """The rack while it is open shows every moment as it comes."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting
        self._rack: RackCard | None = None

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "rack": self._open,
            "make": lambda: self._prompting.write("make "),
        }

    def _open(self) -> None:
        from yardcut.tui.desk.offering.columns_line import column_list
        from yardcut.tui.rack.rack import RackCard

        stage = self._stage
        assert stage.desk is not None
        if stage.looks is None:
            return
        try:
            wanted = column_list(stage.desk.now)
        except ListError as error:
            stage.say_error(error)
            return
        column = stage.grid.cursor_column
        self._rack = RackCard(wanted, None if column is None else column.number, stage.looks, self._edit, self._step)
        self._show(stage.desk.now)
        stage.app.push_screen(self._rack, self._closed)

    def _closed(self, line: str | None) -> None:
        self._rack = None
        if line is not None:
            self._prompting.write(line)

    def _edit(self, wanted: ColumnList) -> None:
        from yardcut.tui.desk.offering.columns_line import say_columns

        assert self._stage.desk is not None
        say_columns(self._stage.desk, wanted)

    def _step(self, again: bool) -> None:
        """Take the last edit back, or do it again."""
        desk, rack = self._stage.desk, self._rack
        assert desk is not None
        if rack is None:
            return
        rack.say(said_of_step(desk, again=again))

    def changed(self, before: Moment, now: Moment) -> None:
        """Show what is so now."""
        self._show(now)

    def _show(self, now: Moment) -> None:
        from yardcut.tui.desk.offering.columns_line import column_list

        if self._rack is None:
            return
        try:
            wanted = column_list(now)
        except ListError as error:
            self._rack.say(error.message, "$warning")
            return
        self._rack.show(wanted, _passing(now), self._stage.grid.viewport.row_position)


def _passing(now: Moment) -> Rows | None:
    """Return the rows that pass all lines of the cut, or those above one that is wrong.

    ``None`` while they are not counted, and where a line below puts rows together: its columns are of another table.
    """
    from yardcut.tui.desk.figured_rows import Rows

    last = len(now.lines) - 1
    wrong = now.wrong
    if wrong is not None:
        last = wrong[0] - 1
    if any(line.bound is not None and line.bound.body.starts_anew for line in now.lines[last + 1 :]):
        return None
    frame = now.frame_at(last)
    return None if frame is None else Rows(frame, now.fingerprint_at(last))
