"""How much of a generated family is tried: a part on every change, all of it with ``YARDCUT_LONG=1 make test``."""

from __future__ import annotations

import os
from collections.abc import Iterable, Sequence
from typing import TypeVar

IS_LONG = bool(os.environ.get("YARDCUT_LONG"))

_Case = TypeVar("_Case")


def examples(of_the_long_run: int) -> int:
    """Return how many examples are generated: a fourteenth of those of the long run, and at least six."""
    return of_the_long_run if IS_LONG else max(6, of_the_long_run // 14)


def some(cases: Iterable[_Case], short: int) -> list[_Case]:
    """Return all cases, or the first few: what differs most comes first in a family."""
    return list(cases) if IS_LONG else list(cases)[:short]


def spread(cases: Sequence[_Case], short: int) -> list[_Case]:
    """Return some of the cases, the first and others as far from each other as they can be.

    >>> spread("abcdefg", 3)
    ['a', 'c', 'e']
    """
    return [cases[number * len(cases) // short] for number in range(min(short, len(cases)))]
