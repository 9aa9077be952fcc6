"""``order``: rows by keys, as read, or at random."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from lark import Token

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.printing import expression_text, keys_text, name_text, side_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Order(t.Body):
    """Puts rows in order by keys; without keys as read, or at random by a seed."""

    keys: tuple[t.SortKey, ...] = ()
    at_random: bool = False
    seed: int | None = None

    @property
    def word(self) -> str:
        """The verb."""
        return "order"


@dataclass(frozen=True, slots=True)
class BoundOrder(b.BoundBody):
    """An order line; no keys and no seed mean the order as read."""

    keys: tuple[b.Key, ...]
    seed: int | None = None

    def arranges(self) -> tuple[b.Key, ...] | None:
        """Return its keys."""
        return self.keys


def _sort_keys(span: t.Span, items: list[Any]) -> tuple[t.SortKey, ...]:
    return tuple(items)


def _sort_key(span: t.Span, items: list[Any]) -> t.SortKey:
    value = next(item for item in items if isinstance(item, t.Expression))
    ways = [_WAYS.get(item.type, item.type) if isinstance(item, Token) else type(item) for item in items]
    if len(set(ways)) < len(ways):
        raise ListError("a key takes each of its words once", start=span[0], end=span[1])
    words = {item.type for item in items if isinstance(item, Token)}
    sequence = next((item for item in items if isinstance(item, tuple)), ())
    off = "OFF_KEY" in words
    if isinstance(value, t.Off):
        value, off = value.condition, True
    ignoring, aware = any(item is True for item in items), "NUMBER_AWARE" in words
    return t.SortKey(value, "DESC" in words, "FIRST" in words, off, ignoring, aware, sequence, span=span)


_WAYS = {"ASC": "direction", "DESC": "direction", "FIRST": "nulls", "LAST": "nulls"}


def _sequence(span: t.Span, items: list[Any]) -> tuple[t.Expression, ...]:
    return tuple(items[1:])


def _order(span: t.Span, items: list[Any]) -> Order:
    rest = items[1:]
    if isinstance(rest[0], tuple):
        return Order(rest[0], span=span)
    seed = rest[1][1] if len(rest) > 1 else None
    if isinstance(seed, str):
        raise ListError("the seed of an order is a number", start=span[0], end=span[1])
    return Order((), rest[0].type == "AT_RANDOM", seed, span=span)


def _text(body: Order) -> str:
    if body.keys:
        return keys_text(body.keys)
    seeded = f" seed {body.seed}" if body.seed is not None else ""
    return f"at random{seeded}" if body.at_random else "as read"


def _said(body: Order) -> str:
    if not body.keys:
        return ""
    said = [
        f"{side_text(key.value)}{' downwards' if key.descending else ''}{_way(key)}" for key in body.keys if not key.off
    ]
    return "first by " + ", then by ".join(said) if said else ""


def _way(key: t.SortKey) -> str:
    ways = [
        (key.nulls_first, "missing first"), (key.ignoring_case, "ignoring case"),
        (key.number_aware, "by the numbers in it"), (bool(key.sequence), "in a sequence of its own"),
    ]  # fmt: skip
    return "".join(f", {said}" for wanted, said in ways if wanted)


def _bind(body: Order, binder: Binder) -> tuple[BoundOrder, Scope]:
    if body.at_random and body.seed is None:
        raise ListError("an order at random needs a seed here", start=body.span[0], end=body.span[1])
    for key in body.keys:
        _check(key, binder)
    return BoundOrder(binder.keys(body.keys), body.seed), binder.scope


def _check(key: t.SortKey, binder: Binder) -> None:
    """Raise ``ListError`` for a key that orders nothing, or nothing but what the column in it does."""
    start, end = key.value.span
    match key.value:
        case t.Number(written):
            columns = binder.scope.known
            mend = None
            if written.isdecimal() and len(written) < 9 and 0 < int(written) <= len(columns):
                says = f"column number {written} is #{written}, {columns[int(written) - 1].name}"
                mend = Mend(says, binder.with_text(start, end, f"#{written}"))
            raise ListError("a number orders nothing: it is the same for every row", start=start, end=end, mend=mend)
        case t.Text(value):
            mend = None
            if binder.scope.find(value) is not None:
                mend = Mend("a column stands without single quotes", binder.with_text(start, end, name_text(value)))
            raise ListError("a text orders nothing: it is the same for every row", start=start, end=end, mend=mend)
        case t.Arithmetic("-", t.Name() as column, t.Number("1")) if not key.descending:
            says = "the largest first is written with DESC"
            mend = Mend(says, binder.with_text(start, end, f"{expression_text(column)} DESC"))
            message = f"{expression_text(key.value)} is a subtraction, and leaves the order as it is"
            raise ListError(message, start=start, end=end, mend=mend)


def _seeded(body: Order, seed: int) -> Order:
    return replace(body, seed=seed) if body.at_random and body.seed is None else body


ORDER = Verb(
    "order",
    "order key [DESC] [NULLS FIRST], …",
    "first by the first key; missing values last in both directions",
    "order felled_on DESC, price_per_m3",
    Effect.ARRANGES,
    {"sort_keys": _sort_keys, "sort_key": _sort_key, "sequence": _sequence, "order": _order},
    _text,
    _bind,
    _said,
    seeded=_seeded,
)
