"""An order put together key by key: a column becomes one more key, is turned, and is taken out again."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.verbs.order import Order


def with_column(order: Order, name: str, *, descending: bool = False) -> Order | None:
    """Return an order with a column as its last key; one that is a key already is turned, and then out.

    ``None`` when no key is left.

    >>> by_year = with_column(Order((t.SortKey(t.Name("year")),)), "month")
    >>> [key.value.name for key in by_year.keys], with_column(by_year, "month").keys[1].descending
    (['year', 'month'], True)
    """
    place = next((at for at, key in enumerate(order.keys) if key.value == t.Name(name) and not key.off), None)
    if place is None:
        return replace(order, keys=(*order.keys, t.SortKey(t.Name(name), descending)))
    key = order.keys[place]
    turned = () if key.descending else (replace(key, descending=True),)
    keys = (*order.keys[:place], *turned, *order.keys[place + 1 :])
    return replace(order, keys=keys) if keys else None


def said(order: Order) -> str:
    """Say by what rows are ordered, the first key first."""
    names = [key.value.name for key in order.keys if isinstance(key.value, t.Name) and not key.off]
    first = f"by {names[0]}" if names else ""
    return f"{first} first, then {', then '.join(names[1:])}" if len(names) > 1 else first
