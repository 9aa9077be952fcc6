"""Building what is said of a second table from the grammar's parse tree."""

from __future__ import annotations

from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.building_expressions import Items, Rule, unquote
from yardcut.core.language.tree import Span


def _second(span: Span, items: Items) -> Second:
    if len(items) > 1:
        return Second(Where.CUT, unquote(items[1]), span=span)
    written = items[0]
    if written.type == "NAME":
        return Second(Where.SOURCE, str(written), span=span)
    return Second(Where.FILE, unquote(written), span=span)


SECOND_RULES: dict[str, Rule] = {"second": _second, "row": lambda span, items: tuple(items)}
