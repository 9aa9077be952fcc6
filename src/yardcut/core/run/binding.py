"""Binding all lines of a cut against a table, before anything runs."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError, Mend
from yardcut.core.language.binding import Bound
from yardcut.core.language.bound import ShownColumn
from yardcut.core.language.lines import bind, with_seed
from yardcut.core.language.parsing import parse_statement
from yardcut.core.language.scope import Scope
from yardcut.core.table.table import Table


@dataclass(frozen=True, slots=True)
class BoundLine:
    """A line of a cut, bound; ``bound`` is ``None`` when it is off or wrong, and ``error`` says what is wrong."""

    line: Line
    off: bool
    bound: Bound | None
    scope: Scope
    error: ListError | None = None


def source_scope(table: Table) -> Scope:
    """Return the columns of a table as the first line sees them."""
    return Scope.of_source([ShownColumn(column.name, column.number, column.kind) for column in table.columns])


def bind_line(text: str, scope: Scope, *, default_seed: int | None = None) -> Bound | None:
    """Parse and bind one line; ``None`` when it is off. Raises ``ListError`` with a mend for the whole line.

    ``default_seed`` is used by draws by chance that name none.
    """
    statement = parse_statement(text)
    if statement.off:
        return None
    if default_seed is not None:
        statement = with_seed(statement, default_seed)
    return bind(statement, text, scope)


def bind_cut(cut: Cut, table: Table, *, default_seed: int | None = None) -> list[BoundLine]:
    """Bind the lines of a cut one after the other; a wrong line passes on the columns it was given."""
    scope = source_scope(table)
    found: list[BoundLine] = []
    for line in cut.lines:
        try:
            bound = bind_line(line.text, scope, default_seed=default_seed)
        except ListError as error:
            found.append(BoundLine(line, line.is_off, None, scope, error))
            continue
        after = scope if bound is None else bound.scope
        found.append(BoundLine(line, bound is None, bound, after))
        scope = after
    return found


def mended(text: str, scope: Scope, most: int = 5) -> tuple[str, tuple[Mend, ...]]:
    """Apply the mends of a line until it is right or no further one is known; return the text and what was mended."""
    applied: list[Mend] = []
    for _ in range(most):
        try:
            bind_line(text, scope, default_seed=0)
        except ListError as error:
            if error.mend is None or error.mend.text is None or error.mend.text == text:
                break
            applied.append(error.mend)
            text = error.mend.text
        else:
            break
    return text, tuple(applied)
