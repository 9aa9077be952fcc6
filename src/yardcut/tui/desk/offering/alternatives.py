"""Letting more rows, or other ones, through the selected line: a condition added to the one it has."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language.helping.condition_tree import with_alternative, with_exception
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax_trees import Expression, Statement
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.tui.desk.moment import Moment


def condition_from(text: str) -> Expression:
    """Parse a condition. Raises ``ListError``."""
    body = parse_statement(f"keep {text}").body
    assert isinstance(body, Keep)
    return body.condition


def filter_selected(moment: Moment) -> Statement | None:
    """Return the selected line where it is a working keep or drop."""
    if not 0 <= moment.selected < len(moment.lines):
        return None
    line = moment.lines[moment.selected]
    statement = line.statement
    if statement is None or line.off or line.error is not None or not isinstance(statement.body, Keep | Drop):
        return None
    return statement


def line_with(moment: Moment, text: str) -> str | None:
    """Return the selected line with one more condition, ``None`` where it takes none.

    A keep then leaves the rows for which that is true too, and a drop takes them; of its offcut, where those rows are
    gone already, a drop lets them stay.
    """
    statement = filter_selected(moment)
    if statement is None:
        return None
    try:
        other = condition_from(text)
    except ListError:
        return None
    assert isinstance(statement.body, Keep | Drop)
    spares = isinstance(statement.body, Drop) and moment.view.is_gone
    add = with_exception if spares else with_alternative
    return with_condition(statement, add(statement.body.condition, other))


def with_condition(statement: Statement, condition: Expression) -> str:
    """Write a keep or drop with another condition."""
    assert isinstance(statement.body, Keep | Drop)
    return statement_text(replace(statement, body=replace(statement.body, condition=condition)))
