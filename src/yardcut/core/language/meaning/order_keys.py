"""Binding the keys of an order: what rows are ordered by, where that is not the value itself, is worked out of it."""

from __future__ import annotations

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binds import Binds, is_constant
from yardcut.core.language.syntax.printing import expression_text, sort_key_text
from yardcut.core.values.kinds import Kind, a_kind


def bound_key(binder: Binds, key: t.SortKey) -> b.Key:
    """Bind one key. Raises ``ListError``."""
    named = binder.value(key.value)
    value = named
    if (key.ignoring_case or key.number_aware) and named.kind is not Kind.TEXT:
        word = "NUMBER AWARE" if key.number_aware else "IGNORING CASE"
        raise binder.error(key.value, f"{word} is for texts, and {expression_text(key.value)} is {a_kind(named.kind)}")
    if key.sequence:
        if key.number_aware:
            raise binder.error(key.sequence[0], "IN SEQUENCE says the order by itself, without NUMBER AWARE")
        value = _in_sequence(binder, key, named)
    else:
        for wanted, function in ((key.ignoring_case, "FOLD"), (key.number_aware, "AS NUMBERS")):
            if wanted:
                value = b.Call(function, (value,), Kind.TEXT, text=expression_text(key.value))
    about = None if value is named else named
    return b.Key(value, key.descending, key.nulls_first, sort_key_text(key), about)


def _in_sequence(binder: Binds, key: t.SortKey, named: b.BoundValue) -> b.BoundValue:
    """Return the place of a value in a sequence of one's own; values that are not named come behind them."""
    branches: list[tuple[b.BoundCondition, b.BoundValue]] = [(b.Piece(b.Absent(named)), b.NoValue(Kind.INTEGER))]
    for place, item in enumerate(key.sequence):
        if not is_constant(item) or (isinstance(item, t.Truth) and item.value is None):
            raise binder.error(item, "IN SEQUENCE takes values, such as ('early', 'late', 'night')")
        value, constant = binder.pair(key.value, item)
        same = b.Piece(b.Compare("=", value, constant, key.ignoring_case))
        branches.append((same, b.Constant(Kind.INTEGER, place)))
    return b.Case(tuple(branches), b.Constant(Kind.INTEGER, len(key.sequence)), Kind.INTEGER)
