"""What the keys do with the values of the column under the table's cursor."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.tui.desk.offering.deeds import TAKE_OUT
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.looking import column_looked_at
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.tui.desk.offering.value_list import ValueList
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class ValueHands:
    """The list of values, the bounds over a distribution, and saving the values."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing) -> None:
        self._stage = stage
        self._prompting = prompting
        self._doing = doing
        doing.own |= {
            "values": self._values,
            "value list": self._value_list,
            "bounds": self._bounds,
            "save values": self._save_values,
            TAKE_OUT: self._take_out,
        }

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {"values": self._values}

    def _values(self) -> None:
        """Show what values the column has: numbers and days as a distribution, unless they were chosen one by one."""
        from yardcut.tui.cards.columns.bounds import has_bounds

        found = self._list_of_values()
        if found is None:
            return
        if has_bounds(found.column.kind) and found.editing is None and not found.are_gone:
            self._bounds()
        else:
            self._value_list()

    def _list_of_values(self) -> ValueList | None:
        from yardcut.tui.desk.offering.value_list import value_list

        looked_at = column_looked_at(self._stage)
        if looked_at is None or self._stage.desk is None:
            return None
        source, _, shown = looked_at
        return value_list(self._stage.desk.now, source, shown)

    def _value_list(self) -> None:
        """Show the values of the column with the rows of each."""
        from yardcut.tui.cards.columns.values import ValuesCard

        found, looks = self._list_of_values(), self._stage.looks
        if found is not None and looks is not None:
            self._stage.app.push_screen(ValuesCard(found, looks), self._doing.done)

    def _bounds(self) -> None:
        """Show the distribution of the column, with two bounds to be moved."""
        from yardcut.tui.cards.columns.bounds import BoundsCard

        stage, looked_at = self._stage, column_looked_at(self._stage)
        if looked_at is None or stage.desk is None:
            return
        source, looks, shown = looked_at
        card = BoundsCard(stage.desk.now, source.rows, shown, source.label, looks)
        stage.app.push_screen(card, self._doing.done)

    def _save_values(self) -> None:
        """Write the values with their rows as a small table."""
        from yardcut.core.progress import CancelToken
        from yardcut.core.writers.value_counts import write_value_counts
        from yardcut.tui.main.saving.saving_tables import save_table

        found, looks = self._list_of_values(), self._stage.looks
        if found is None or looks is None:
            return
        counted = looks.distinct(found.rows, found.column, CancelToken())  # known: the list showed it
        rows = [*counted.values, *([(None, counted.missing)] if counted.missing else [])]
        name = found.column.name
        start = "".join(char if char.isalnum() else "-" for char in name)
        save_table(
            self._stage, self._prompting, "save the values ▸", f"{start}-values.csv",
            plural(len(rows), "value") + " with their rows", lambda out: write_value_counts(name, rows, out),
        )  # fmt: skip

    def _take_out(self) -> None:
        """Take the selected line out: what it chose among is not restricted any more."""
        assert self._stage.desk is not None
        self._stage.desk.edits.delete_line(self._stage.desk.now.selected)
        self._stage.say(f"nothing is ticked: the line is gone   ({key_of('undo')} puts it back)")
