"""Putting a bring line together: which columns, by which keys, under names that are free."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.printing import PLAIN_NAME
from yardcut.core.language.verbs.bring_parts import Bring, BroughtItem, KeyPair, Latest, Match, Only, free_name

_ALL_AT_ONCE = 6
"""A second table of no more columns brings them all to begin with; a wider one the first of them."""


def second_named(text: str, cuts: Collection[str], sources: Collection[str]) -> Second:
    """Return the second table that somebody names: an earlier cut, a further source, else a file.

    >>> second_named('totals', ['totals'], []).where, second_named('"mills.csv"', [], []).name
    (<Where.CUT: 'cut'>, 'mills.csv')
    """
    plain = text.strip()
    inner = re.fullmatch(r"""(?:cut\s+)?(["'])(.*)\1""", plain, re.IGNORECASE)
    name = inner[2] if inner is not None else plain
    if not name:
        raise ListError("name a file, an earlier cut, or a further source")
    if plain.lower().startswith(("cut ", "cut\t")) or (inner is None and name in cuts):
        return Second(Where.CUT, name.removeprefix("cut ").strip() if inner is None and name not in cuts else name)
    return Second(Where.SOURCE if inner is None and name in sources and PLAIN_NAME.match(name) else Where.FILE, name)


def first_bring(second: Second, columns: Sequence[str], key: tuple[str, str] | None, taken: Collection[str]) -> Bring:
    """Return the line to begin with: by the likeliest key, all columns of a narrow table or the first of a wide one."""
    ours, theirs = key or ("", "")
    others = [name for name in columns if name != theirs]
    chosen = others if len(others) <= _ALL_AT_ONCE else others[:1]
    body = Bring((), second, (pair(ours, theirs),) if key is not None else (), match=Match.ONE)
    for name in chosen:
        body = with_column(body, name, taken)
    return body


def pair(ours: str, theirs: str) -> KeyPair:
    """Return a key of two columns."""
    return KeyPair(t.Name(ours), None if ours == theirs else t.Name(theirs))


def with_key(body: Bring, ours: str, theirs: str) -> Bring:
    """Return the line with a key taken, or left, or with the other column there of a key that it has."""
    wanted = pair(ours, theirs)
    if wanted in body.keys:
        return replace(body, keys=tuple(key for key in body.keys if key != wanted))
    return replace(body, keys=(*body.keys, wanted))


def latest(ours: str, theirs: str) -> Latest:
    """Return the nearest earlier row by two columns that hold moments."""
    return Latest(t.Name(theirs), t.Name(ours))


def with_latest(body: Bring, ours: str, theirs: str) -> Bring:
    """Return the line with the nearest earlier row of its key taken by two moments, or not any more."""
    wanted = latest(ours, theirs)
    return replace(body, latest=None if body.latest == wanted else wanted, match=Match.ONE)


def with_column(body: Bring, name: str, taken: Collection[str]) -> Bring:
    """Return the line with a column taken, under a name that is free, or left."""
    if any(item.column == t.Name(name) for item in body.items):
        return replace(body, items=tuple(item for item in body.items if item.column != t.Name(name)))
    names = {*taken, *(item.name or _name(item) for item in body.items)}
    free = free_name(body.second, name, names) if name in names else None
    return replace(body, items=(*body.items, BroughtItem(t.Name(name), free)))


def _name(item: BroughtItem) -> str:
    return item.column.name if isinstance(item.column, t.Name) else ""


def turned_only(body: Bring) -> Bring:
    """Return the line leaving all rows, those with a match, or those without one."""
    order = list(Only)
    return replace(body, only=order[(order.index(body.only) + 1) % len(order)])


def turned_match(body: Bring) -> Bring:
    """Return the line taking a key once, its first row, or every row."""
    order = list(Match)
    return replace(body, match=order[(order.index(body.match) + 1) % len(order)])
