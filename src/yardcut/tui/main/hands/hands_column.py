"""What the keys do to the column under the table's cursor."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.looking import column_looked_at
from yardcut.tui.main.prompting.asking import Meaning, Question
from yardcut.tui.main.prompting.going import go_to

if TYPE_CHECKING:
    from yardcut.core.language.helping.column_lists import ColumnList
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage
    from yardcut.tui.widgets.grid.grid_source import GridColumn


class ColumnHands:
    """Leaving out, moving, renaming, freezing; and the card with all of it."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing) -> None:
        self._stage = stage
        self._prompting = prompting
        self._doing = doing
        doing.own |= {
            "leave out": self._leave_out,
            "rename": self._rename,
            "left": lambda: self._move(-1),
            "right": lambda: self._move(1),
            "first": lambda: self._to_the(-1),
            "last": lambda: self._to_the(1),
            "freeze": self._freeze,
            "pin": self._pin,
            "find": lambda: prompting.ask(go_to(stage.grid, stage.leave_row)),
        }

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "leave-out": self._leave_out,
            "column-left": lambda: self._move(-1),
            "column-right": lambda: self._move(1),
            "rename": self._rename,
            "freeze": self._freeze,
            "column-card": self._card,
        }

    @property
    def _column(self) -> GridColumn:
        column = self._stage.grid.cursor_column
        assert column is not None
        return column

    def _want(self, work: Callable[[ColumnList], ColumnList], said: str) -> bool:
        """Have the list say something else of the columns; tell why where it cannot."""
        from yardcut.tui.desk.offering.columns_line import column_list, say_columns

        stage = self._stage
        assert stage.desk is not None
        number = self._column.number
        stage.grid.go_to(column=stage.grid.viewport.column)  # the cursor stays with this column, wherever it goes
        try:
            before = column_list(stage.desk.now)
            if not any(chosen.column.number == number for chosen in before.chosen):
                stage.say(f"this column is not in the cut as it ends: {key_of('rack')} shows them all", "$warning")
                return False
            index = say_columns(stage.desk, work(before))
        except ListError as error:
            stage.say_error(error)
            return False
        stage.say(
            "it is so already" if index is None else f"{said}   (line {index + 1}; {key_of('undo')} takes it back)"
        )
        return True

    def _leave_out(self) -> None:
        column = self._column
        self._want(lambda columns: columns.left_out([column.number]), f"left out {column.name}")

    def _move(self, by: int) -> None:
        number = self._column.number

        def moved(columns: ColumnList) -> ColumnList:
            at = next(place for place, each in enumerate(columns.chosen) if each.column.number == number)
            return columns.moved(number, max(0, at + by))

        self._want(moved, f"moved {self._column.name} to the {'left' if by < 0 else 'right'}")

    def _to_the(self, side: int) -> None:
        number = self._column.number
        self._want(lambda columns: columns.moved(number, 0 if side < 0 else len(columns.chosen)), "moved it")

    def _rename(self) -> None:
        """Ask for another name."""
        from yardcut.core.language.helping.new_names import name_trouble

        column = self._column
        others = [other.name for other in self._stage.grid.source.columns if other is not column]

        def means(text: str) -> Meaning:
            trouble = name_trouble(text, others)
            if trouble is not None:
                return Meaning(f"{trouble.says}: {trouble.mended}?")
            return Meaning("this is its name now" if text == column.name else f"{column.name} becomes {text}", True)

        def rename(text: str) -> None:
            if text != column.name:
                self._want(lambda columns: columns.renamed({column.number: text}), f"{column.name} is {text}")

        self._prompting.ask(Question("new name ▸", column.name, means, rename))

    def _freeze(self) -> None:
        grid, column = self._stage.grid, self._column
        name, frozen = column.name, grid.frozen.turn(column.id)
        grid.columns_are_there()
        self._stage.say(f"{name} stands still at the left" if frozen else f"{name} goes with the others again")

    def _card(self) -> None:
        from yardcut.tui.cards.columns.column import ColumnCard
        from yardcut.tui.desk.offering.column_deeds import column_deeds

        stage, looked_at = self._stage, column_looked_at(self._stage)
        if looked_at is None or stage.desk is None:
            return
        source, looks, shown = looked_at
        deeds = column_deeds(stage.desk.now, shown, is_frozen=stage.grid.frozen.has(self._column.id))
        can_cut = not source.has_reasons
        stage.app.push_screen(
            ColumnCard(source.rows, shown, source.label, looks, deeds, can_cut=can_cut), self._doing.done
        )

    def _pin(self) -> None:
        number = self._column.number
        self._want(lambda columns: columns.pinned(number), "the pattern is the names it meets now")
