"""The line of a cut that says which columns it has, and changing it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.language.helping.column_lists import ColumnList
from yardcut.core.language.syntax.printing import items_text
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.language.verbs.verb import Effect

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.desk.moment import Moment


def columns_line(moment: Moment) -> int | None:
    """Return the index of the line that has the last word about the columns; ``None``: there is none yet."""
    for index in range(len(moment.lines) - 1, -1, -1):
        line = moment.lines[index]
        if line.bound is not None and line.bound.body.starts_anew:
            return None
        if line.off or line.statement is None or line.verb is None or line.verb.effect is not Effect.SHAPES:
            continue
        return index if isinstance(line.statement.body, Columns) else None
    return None


def column_list(moment: Moment) -> ColumnList:
    """Return what the cut says of its columns, all of them where it says nothing. Raises ``ListError``."""
    index = columns_line(moment)
    if index is None:
        return ColumnList(moment.scope_at(len(moment.lines) - 1))
    statement = moment.lines[index].statement
    assert statement is not None
    assert isinstance(statement.body, Columns)
    return ColumnList(moment.scope_at(index - 1), statement.body)


def say_columns(desk: Desk, wanted: ColumnList) -> int | None:
    """Have the list say which columns there are, in the line that does so or a new one; return its index.

    Where all is as it was nothing is written, and ``None`` returned.

    Raises ``ListError``.
    """
    moment = desk.now
    text = f"columns {items_text(wanted.body.items, wanted.body.without)}"
    index = columns_line(moment)
    if wanted.body == column_list(moment).body:
        return None
    if index is None:
        return desk.edits.enter(text, len(moment.lines) - 1)
    desk.edits.rewrite(index, text)
    return index
