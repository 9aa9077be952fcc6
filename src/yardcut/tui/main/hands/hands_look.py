"""What the keys do for the eye only: ordering what is seen, and making that part of the cut."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.desk.view import View
from yardcut.tui.keys.keymap import key_of

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.stage import Stage

_TURNS = ("", " DESC", None)
"""The ways a column is ordered by, one press after the other; ``None``: not any more."""


class LookHands:
    """Look lines by keys. After an order the first rows are shown; a key goes back to the row the cursor stood on."""

    def __init__(self, stage: Stage, doing: Doing) -> None:
        self._stage = stage
        self._doing = doing
        self._leaving: int | None = None

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "look-order": self._order_to_look,
            "order-by": self._order,
            "look-real": self._make_real,
            "look-clear": self._clear,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _name(self) -> str:
        from yardcut.core.language.syntax.printing import name_text

        column = self._stage.grid.cursor_column
        assert column is not None
        return name_text(column.name)

    def _direction(self) -> str | None:
        """Return how the look line orders by the column under the cursor, ``None`` when it does not."""
        from yardcut.core.language import syntax_trees as t
        from yardcut.core.language.verbs.order import Order

        column = self._stage.grid.cursor_column
        for look in self._desk.now.looks:
            if look.statement is None or not isinstance(look.statement.body, Order) or column is None:
                continue
            match look.statement.body.keys:
                case (t.SortKey(t.Name(name)) as key,) if name == column.name:
                    return " DESC" if key.descending else ""
        return None

    def _order_to_look(self) -> None:
        """Order by the column to look: upwards, downwards, not any more."""
        desk, now = self._desk, self._desk.now
        if now.view is not View.ROWS or now.selected != len(now.lines) - 1:
            desk.select(len(now.lines) - 1)
        before = self._direction()
        turn = _TURNS[0] if before is None else _TURNS[_TURNS.index(before) + 1]
        self._leave_row()
        if turn is None:
            desk.edits.look_no_more()
            self._stage.say("in the cut's own order again")
            return
        try:
            desk.edits.look(f"look order {self._name()}{turn}")
        except ListError as error:
            self._stage.say_error(error)
            return
        way = "downwards" if turn else "upwards"
        self._stage.say(
            f"seen by {self._name()}, {way}: the cut stays as it is   ({key_of('order-by')} makes it the cut's order)"
        )

    def _order(self) -> None:
        """Order the cut by the column, as it was looked at; an order that is selected gets one more key."""
        if self._one_more_key():
            return
        line = f"order {self._name()}{self._direction() or ''}"
        self._leave_row()
        self._doing.put(line, instead_of_looks="order")

    def _one_more_key(self) -> bool:
        """Make the column a key of the selected order, turn it, or take it out; ``False`` where none is selected."""
        from yardcut.core.language.lines import statement_text
        from yardcut.core.language.turning.order_turns import said, with_column
        from yardcut.core.language.verbs.order import Order

        desk, now, column = self._desk, self._desk.now, self._stage.grid.cursor_column
        line = now.lines[now.selected] if now.selected >= 0 else None
        statement = line.statement if line is not None and not line.off else None
        if statement is None or not isinstance(statement.body, Order) or not statement.body.keys or column is None:
            return False
        order = with_column(statement.body, column.name, descending=self._direction() == " DESC")
        looks = tuple(look for look in now.cut.looks if look.look_verb != "order")
        if order is None:
            desk.edits.delete_line(now.selected)
            self._stage.say(f"that was its only key: the order is out   ({key_of('undo')} puts it back)")
            return True
        text = statement_text(replace(statement, body=order))
        kept = now.cut.lines[now.selected]
        cut = replace(now.cut, looks=looks).with_line(now.selected, replace(kept, text=text))
        self._leave_row()
        desk.edits.change_cut(cut, to=now.selected)
        self._stage.say(f"{text}: {said(order)}   ({key_of('undo')} takes it back)")
        return True

    def _make_real(self) -> None:
        """Make the look lines lines of the cut, or the line that shows what stands behind a figure."""
        part = self._desk.now.part
        if part is not None and part.behind is not None:
            index = self._desk.edits.enter(part.behind.line, part.behind.tally - 1)
            self._stage.say(f"{part.behind.line}   (line {index + 1}; {key_of('undo')} takes it back)")
            return
        if self._desk.edits.look_no_more(as_lines=True):
            self._stage.say(f"the look lines are part of the cut now   ({key_of('undo')} takes it back)")
        else:
            self._stage.say(
                f"there are no look lines: {key_of('look-order')} orders by a column to look, or "
                f"{key_of('write')} writes  look keep …"
            )

    def _clear(self) -> None:
        """Take the look lines away."""
        if self._desk.edits.look_no_more():
            self._stage.say(f"nothing is looked at in a way of its own any more   ({key_of('undo')} takes it back)")
        else:
            self._stage.say("there are no look lines")

    # the row the cursor stood on

    def _leave_row(self) -> None:
        """Go to the first row once the other order is there, and keep the one under the cursor to go back to."""
        cell = self._stage.grid.cursor_cell()
        self._leaving = None if cell is None else cell[1]

    def changed(self, before: Moment, now: Moment) -> None:
        """Show the first rows of an order, once they are there, and say where the row went."""
        if self._leaving is None and _orders_anew(before, now):  # a line that was written: nothing was said of it
            self._stage.say("")
            self._leave_row()
        if self._leaving is None or (now.looks and now.looked is None) or not now.is_counted:
            return
        row, self._leaving = self._leaving, None
        source = self._stage.grid.source
        if hasattr(source, "position_of") and source.row_count:
            self._stage.row_left = row
            self._stage.grid.go_to(row_position=0)
            place = source.position_of(row)
            if place:
                self._stage.say_more(f"the first rows; yours is now {place + 1:,}: {key_of('row-back')} goes there")


def _orders_anew(before: Moment, now: Moment) -> bool:
    """Tell whether the line that is selected came just now, and puts the rows in order."""
    if now is before or now.cut is before.cut or now.cut.name != before.cut.name or now.selected < 0:
        return False
    line = now.lines[now.selected]
    is_new = all(line.line is not other for other in before.cut.lines)
    return is_new and line.bound is not None and line.bound.body.arranges() is not None
