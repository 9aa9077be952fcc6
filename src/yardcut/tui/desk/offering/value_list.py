"""What the list of a column's values is about: whose rows, which are ticked already, and what comes of it."""

from __future__ import annotations

from collections.abc import Collection

from yardcut.core.language.helping.value_sets import ValueSet, condition_text, values_of
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.desk.figured_rows import Rows
from yardcut.tui.desk.grids import FrameSource
from yardcut.tui.desk.moment import Moment
from yardcut.tui.desk.offering.alternatives import filter_selected
from yardcut.tui.desk.offering.deeds import TAKE_OUT, Deed


@dataclass(frozen=True, slots=True)
class ValueList:
    """The values of a column among some rows, to be ticked.

    Where the selected line does nothing but choose values of the column, it is gone on with: ``editing`` is its index,
    ``ticked`` what it chooses, and the rows are those above it. Rows that ``are_gone`` are looked at, not cut.
    """

    column: ShownColumn
    rows: Rows
    label: str
    ticked: ValueSet = frozenset()
    editing: int | None = None
    verb: str = "keep"
    are_gone: bool = False

    def deed(self, verb: str, ticked: Collection[str | None]) -> Deed | None:
        """Return what comes of ticks: a line; none: no restriction; ``None`` when there is nothing to do."""
        if not ticked:
            return None if self.editing is None else Deed(own=TAKE_OUT)
        text = f"{verb} {condition_text(self.column.name, self.column.kind, ticked)}"
        return Deed(text, self.editing)


def value_list(moment: Moment, source: FrameSource, column: ShownColumn) -> ValueList:
    """Return the list of a column's values as of the selected line."""
    statement, result = filter_selected(moment), moment.result_at(moment.selected)
    if statement is not None and result is not None and source.above is not None and not source.has_reasons:
        assert isinstance(statement.body, Keep | Drop)
        ticked = values_of(statement.body.condition, column.name, column.kind)
        if ticked:
            above = "the source" if moment.selected == 0 else f"above line {moment.selected + 1}"
            return ValueList(column, source.above, above, ticked, moment.selected, statement.verb)
    return ValueList(column, source.rows, source.label, are_gone=source.has_reasons)
