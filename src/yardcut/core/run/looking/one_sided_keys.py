"""Keys that only one of two tables has, and those that differ in no more than capitals, blanks or leading zeros."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.looked_up import LookedUp
from yardcut.core.table.window import Scatter

Key = tuple[str, ...]
_AT_ONCE = 1 << 17


@dataclass(frozen=True, slots=True)
class Twin:
    """A key here that is one there but for ``what``: "capitals", "blanks" or "leading zeros"."""

    here: Key
    there: Key
    what: str


@dataclass(frozen=True, slots=True)
class KeysApart:
    """The keys of either side that the other lacks: those here with the rows of each, and ``twins`` among them."""

    here: tuple[tuple[Key, int], ...]
    there: tuple[Key, ...]
    twins: tuple[Twin, ...]


def keys_apart(looked: LookedUp, token: CancelToken) -> KeysApart:
    """Return the keys of the rows that reach a line, and of a second table, that have none on the other side.

    Raises ``StoppedError``.
    """
    here = _keys_without(looked, token)
    there = tuple(looked.texts(looked.not_met))
    counted = tuple(sorted(here.items(), key=lambda pair: (-pair[1], pair[0])))
    return KeysApart(counted, there, tuple(twins_of([key for key, _ in counted], there)))


def _keys_without(looked: LookedUp, token: CancelToken) -> Counter[Key]:
    found: Counter[Key] = Counter()
    ids = looked.rows.ids(0, looked.rows.count)
    ids = ids[looked.numbers[ids] == looked.nothing]
    for start in range(0, len(ids), _AT_ONCE):
        token.check()
        window = Scatter(looked.table, ids[start : start + _AT_ONCE])
        texts = [evaluate(key, window).texts() for key in looked.matching.keys]
        found.update(tuple(text or "" for text in key) for key in zip(*texts, strict=True))
    return found


def _capitals(text: str) -> str:
    return text.casefold()


def _blanks(text: str) -> str:
    return text.strip(" ")


def _zeros(text: str) -> str:
    return text.lstrip("0")


ALIKE: dict[str, Callable[[str], str]] = {"capitals": _capitals, "blanks": _blanks, "leading zeros": _zeros}
"""What keys that are meant to be the same often differ in, and how to look away from it."""


def twins_of(here: Iterable[Key], there: Iterable[Key]) -> Iterable[Twin]:
    """Yield the keys of both sides that differ in one of those things only.

    >>> [twin.what for twin in twins_of([("oak",), ("7",), ("elm ",)], [("Oak",), ("007",), ("elm",)])]
    ['capitals', 'leading zeros', 'blanks']
    """
    theirs = list(there)
    places = {what: {tuple(map(plain, key)): key for key in theirs} for what, plain in ALIKE.items()}
    for key in here:
        for what, plain in ALIKE.items():
            other = places[what].get(tuple(map(plain, key)))
            if other is not None:
                yield Twin(key, other, what)
                break
