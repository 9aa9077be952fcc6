"""Binding what is said of a second table: which rows of it are found, and whether one is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binds import Binds
from yardcut.core.language.meaning.bound_second import Listed, Matching, TheirValue
from yardcut.core.language.meaning.scope import Lookup, SecondTable
from yardcut.core.language.second_tree import InSecond, Second, Where
from yardcut.core.language.syntax.printing import expression_text, name_text, second_text
from yardcut.core.values.casts import can_cast
from yardcut.core.values.kinds import Kind, a_kind, comparable


def second_table(binder: Binds, second: Second) -> SecondTable:
    """Return the second table that is named. Raises ``ListError`` at its place."""
    tables = binder.scope.further
    if tables is None:
        raise binder.error(second, f"{second_text(second)} cannot be looked into here")
    try:
        return tables.table(second)
    except ListError as error:
        error.start, error.end = second.span
        if second.where is Where.SOURCE and "." in second.name:  # a file without its quotes
            file = second_text(Second(Where.FILE, second.name))
            error.mend = binder.replacing(second, "a file stands in double quotes", file)
        raise


def bound_listed(binder: Binds, node: InSecond) -> b.BooleanValue:
    """Bind ``value IN "file"``. Raises ``ListError``."""
    values = [binder.value(value) for value in node.values]
    if node.ignoring_case and not any(value.kind is Kind.TEXT for value in values):
        raise binder.error(node, "IGNORING CASE is for texts")
    found = _plain_list(binder, node, values)
    if found is not None:
        return found
    other = second_table(binder, node.second)
    columns = node.columns or tuple(map(_same_name, [(binder, value, node) for value in node.values]))
    if len(columns) != len(values):
        raise binder.error(node, f"{len(values)} values are looked for in {len(columns)} columns: one for each")
    theirs = [their_value(binder, other, node.second, column) for column in columns]

    def mended(place: int, kind: Kind) -> Mend:
        written = t.Call("CAST", (node.values[place], t.Word(kind)))
        asked = replace(node, values=(*node.values[:place], written, *node.values[place + 1 :]), columns=columns)
        return binder.replacing(node, _CAST, expression_text(asked))

    keys = [
        _alike(binder, one, value, their, partial(mended, place))
        for place, (one, value, their) in enumerate(zip(node.values, values, theirs, strict=True))
    ]
    return _listed(binder, node, other, keys, theirs)


def _listed(
    binder: Binds, node: InSecond, other: SecondTable, keys: Sequence[b.BoundValue], theirs: Sequence[TheirValue]
) -> b.BooleanValue:
    text = expression_text(replace(node, negated=False))
    matching = Matching(other.rows, tuple(keys), tuple(theirs), first=True, ignoring_case=node.ignoring_case, text=text)
    return b.BooleanValue(Listed(matching, binder.fixed.line))


def _plain_list(binder: Binds, node: InSecond, values: list[b.BoundValue]) -> b.BooleanValue | None:
    """Bind a value that is looked for in a plain list, whose texts are read as its kind; ``None`` where it is none."""
    tables = binder.scope.further
    if tables is None or node.columns or len(values) != 1:
        return None
    name = node.values[0].name if isinstance(node.values[0], t.Name) else ""
    try:
        other = tables.list_of_values(node.second, name)
    except ListError as error:
        error.start, error.end = node.second.span
        raise
    if other is None:
        return None
    column = other.scope.shown[0]
    value: b.BoundValue = column.value
    if values[0].kind is not Kind.TEXT:
        value = b.Call(b.READ_EXACTLY, (column.value,), values[0].kind)
    return _listed(binder, node, other, values, [TheirValue(value, column.name)])


def _same_name(asked: tuple[Binds, t.Expression, InSecond]) -> t.Name:
    binder, value, node = asked
    if isinstance(value, t.Name):
        return value
    raise binder.error(
        value, f"{expression_text(value)} has no name to find a column of {second_text(node.second)} by",
        Mend(f"name the column: IN {second_text(node.second)} column ticket"),
    )  # fmt: skip


def their_value(binder: Binds, other: SecondTable, second: Second, node: t.Expression) -> TheirValue:
    """Bind a value over the rows of a second table. Raises ``ListError``."""
    within = binder.over(other.scope.beside(binder.scope))
    try:
        if isinstance(node, t.Name | t.ColumnNumber):
            column = Lookup(other.scope, binder.text).column(node)
            return TheirValue(column.value, column.name)
        return TheirValue(within.value(node), expression_text(node))
    except ListError as error:
        if isinstance(node, t.Name):
            names = ", ".join(name_text(name) for name in other.scope.names()[:_MOST_NAMED])
            mend = error.mend or Mend(f"it has {names}")
            raise binder.error(node, f"{second_text(second)} has no column {node.name}", mend) from None
        raise


_MOST_NAMED = 8


def matching_keys(
    binder: Binds, other: SecondTable, second: Second, pairs: Sequence[tuple[t.Expression, t.Expression | None]]
) -> tuple[tuple[b.BoundValue, ...], tuple[TheirValue, ...]]:
    """Bind the keys by which rows are found. Raises ``ListError``."""
    ours, theirs = [], []
    for one, named in pairs:
        value = binder.value(one)
        if named is None and not isinstance(one, t.Name | t.ColumnNumber):
            raise binder.error(one, f"say which column it is equal to: {expression_text(one)} = id")
        their = _their_key(binder, other, second, one, named)
        equal = f" = {name_text(their.name)}" if named is None else ""
        ours.append(_alike(binder, one, value, their, partial(_cast_key, binder, one, equal)))
        theirs.append(their)
    return tuple(ours), tuple(theirs)


def _their_key(
    binder: Binds, other: SecondTable, second: Second, one: t.Expression, named: t.Expression | None
) -> TheirValue:
    """Bind what a key is equal to: the column of its own name, where none is named."""
    if named is not None:
        return their_value(binder, other, second, named)
    if isinstance(one, t.Name) and other.scope.find(one.name) is None:
        from yardcut.core.near import nearest

        near = nearest(one.name, other.scope.names()) or other.scope.names()[:1]
        equal = f"{expression_text(one)} = {name_text(near[0])}" if near else ""
        raise binder.error(
            one, f"{second_text(second)} has no column {one.name} to be equal to it",
            binder.replacing(one, "say which column it is equal to", equal) if near else None,
        )  # fmt: skip
    return their_value(binder, other, second, one)


def _cast_key(binder: Binds, node: t.Expression, equal: str, kind: Kind) -> Mend:
    return binder.replacing(node, _CAST, f"CAST({expression_text(node)} AS {kind}){equal}")


_CAST = "read it as one of the same kind"


def _alike(
    binder: Binds, node: t.Expression, value: b.BoundValue, their: TheirValue, mended: Callable[[Kind], Mend]
) -> b.BoundValue:
    """Return a key that can be compared with what it is looked for among. Raises ``ListError`` with the CAST.

    ``mended`` gives the mend that casts the key to a kind.
    """
    if comparable(value.kind, their.kind):
        return value
    message = f"{expression_text(node)} is {a_kind(value.kind)} and {their.name} there is {a_kind(their.kind)}"
    if not can_cast(value.kind, their.kind):
        raise binder.error(node, f"{message}: they are never equal")
    raise binder.error(node, message, mended(their.kind))
