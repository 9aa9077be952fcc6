"""What could stand where a line names a second table, or a column of one."""

from __future__ import annotations

from collections.abc import Sequence

from lark import Token

from yardcut.core.errors import ListError
from yardcut.core.language.meaning.scope import Scope, SecondTable
from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.values.formatting import quote_name

_MOST = 40


def second_options(tokens: Sequence[Token], partial: str, scope: Scope) -> list[tuple[str, str]] | None:
    """Return the texts, each with what it is, for a second table or a column there; ``None`` anywhere else."""
    if not tokens or scope.further is None:
        return None
    kinds = [token.type for token in tokens]
    is_bring = "BRING" in kinds[:2]
    if is_bring and "_FROM" not in kinds:  # which columns there are, the table behind from says
        words = [("from ", "the second table stands behind it"), *([("all ", "")] if kinds[-1] == "BRING" else [])]
        return [pair for pair in words if pair[0].startswith(partial.lower())]
    if kinds[-1] == "IN":
        lists = [] if partial else [("(", "values")]
        return [*lists, *_tables(partial, scope)]
    if is_bring and kinds[-1] == "_FROM":
        return _tables(partial, scope)
    if is_bring and "_BY" in kinds and kinds[-1] == "EQUALS":
        return _columns(tokens[kinds.index("_FROM") + 1 :], partial, scope)
    if kinds[-1] == "_COLUMN":
        place = len(kinds) - 1 - kinds[::-1].index("IN")
        return _columns(tokens[place + 1 :], partial, scope)
    return None


def _tables(partial: str, scope: Scope) -> list[tuple[str, str]]:
    assert scope.further is not None
    typed = partial.lstrip('"')
    if partial.startswith('"'):
        return [(quote_name(path), "file") for path in scope.further.files_like(typed)[:_MOST]]
    named = [(f"{name_text(name)} ", "further source") for name in scope.further.source_names()]
    cuts = [(f"cut {quote_name(name)} ", "earlier cut") for name in scope.further.cut_names()]
    files = [(quote_name(path), "file") for path in scope.further.files_like(typed)]
    return [pair for pair in (*named, *cuts, *files) if typed.lower() in pair[0].lower()][:_MOST]


def _columns(tokens: Sequence[Token], partial: str, scope: Scope) -> list[tuple[str, str]]:
    """Return the columns of the table that some tokens begin with."""
    table = _table(tokens, scope)
    if table is None:
        return []
    typed = partial.lstrip('"').lower()
    return [
        (name_text(column.name), f"{column.kind.value}, there")
        for column in table.scope.shown
        if typed in column.name.lower()
    ][:_MOST]


def _table(tokens: Sequence[Token], scope: Scope) -> SecondTable | None:
    if not tokens or scope.further is None:
        return None
    first = tokens[0]
    try:
        if first.type == "CUT_WORD":
            second = Second(Where.CUT, unquote(tokens[1]))
        elif first.type == "NAME":
            second = Second(Where.SOURCE, str(first))
        else:
            second = Second(Where.FILE, unquote(first))
        return scope.further.table(second)
    except (ListError, IndexError):
        return None
