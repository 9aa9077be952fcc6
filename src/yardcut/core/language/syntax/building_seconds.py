"""Building what is said of a second table from the grammar's parse tree."""

from __future__ import annotations

from yardcut.core.errors import ListError
from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.building_expressions import Items, Rule, unquote
from yardcut.core.language.syntax_trees import Span


def _second(span: Span, items: Items) -> Second:
    written = items[-1]
    if len(items) == 1 and written.type == "NAME":
        return Second(Where.SOURCE, str(written), span=span)
    name, where = unquote(written), Where.CUT if len(items) > 1 else Where.FILE
    if not name:
        what = "the name of a cut" if where is Where.CUT else "a file"
        raise ListError(f"{what} stands in the quotes, and here they are empty", start=span[0], end=span[1])
    return Second(where, name, span=span)


SECOND_RULES: dict[str, Rule] = {"second": _second, "row": lambda span, items: tuple(items)}
