"""Binding whole lines: each sees the columns the one above leaves."""

from __future__ import annotations

from yardcut.core.errors import ListError
from yardcut.core.language import bound as b
from yardcut.core.language import tree as t
from yardcut.core.language.binding import Binder, Bound
from yardcut.core.language.choosing import choose
from yardcut.core.language.printing import sort_key_text
from yardcut.core.language.scope import Scope


def bind(statement: t.Statement, text: str, scope: Scope) -> Bound:
    """Bind one line that is switched on. Raises ``ListError`` with offsets into ``text``."""
    binder = Binder(scope, text)
    after = scope
    body: b.BoundBody
    match statement.body:
        case t.Keep(condition):
            body = b.BoundFilter(binder.condition(condition), drops=False)
        case t.Drop(condition):
            body = b.BoundFilter(binder.condition(condition), drops=True)
        case t.Order(keys, at_random, seed):
            if at_random and seed is None:
                raise ListError("an order at random needs a seed here", start=statement.span[0], end=statement.span[1])
            body = b.BoundOrder(_keys(binder, keys), seed)
        case t.Draw() as draw:
            if draw.form in ("random", "chance") and draw.seed is None:
                raise ListError("a draw by chance needs a seed here", start=statement.span[0], end=statement.span[1])
            groups = tuple(binder.value(value) for value in draw.per)
            body = b.BoundDraw(draw, _keys(binder, draw.keys), groups)
        case t.Columns(items, without):
            shown = choose(items, without, binder.lookup)
            body = b.BoundColumns(shown)
            after = Scope(shown, scope.source)
        case t.Save() as save:
            body = b.BoundSave(save)
        case _:
            raise AssertionError(f"no binding for {type(statement.body).__name__}")
    return Bound(body, after, tuple(dict.fromkeys(binder.lookup.hints)))


def _keys(binder: Binder, keys: tuple[t.SortKey, ...]) -> tuple[b.Key, ...]:
    return tuple(
        b.Key(binder.value(key.value), key.descending, key.nulls_first, sort_key_text(key))
        for key in keys
        if not key.off
    )


def with_seed(statement: t.Statement, seed: int) -> t.Statement:
    """Return a line with a seed where it draws by chance and has none."""
    from dataclasses import replace

    body = statement.body
    if isinstance(body, t.Draw) and body.form in ("random", "chance") and body.seed is None:
        return replace(statement, body=replace(body, seed=seed))
    if isinstance(body, t.Order) and body.at_random and body.seed is None:
        return replace(statement, body=replace(body, seed=seed))
    return statement


def wants_seed(statement: t.Statement) -> bool:
    """Tell whether a line draws by chance without saying by which seed."""
    return with_seed(statement, 0) != statement
