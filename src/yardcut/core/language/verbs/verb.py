"""What the language knows of a verb."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from enum import StrEnum
from typing import Any

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import Rule
from yardcut.core.quick_dataclasses import dataclass


class Effect(StrEnum):
    """What a line does to the table: all that anybody who shows it needs to know."""

    REMOVES = "removes rows"
    ARRANGES = "puts rows in order"
    SHAPES = "shapes columns"
    GATHERS = "puts rows together"
    WRITES = "writes a file"


@dataclass(frozen=True, slots=True)
class Verb:
    """One verb of the language.

    ``takes``, ``does`` and ``example`` are its form; ``forms`` those of its kinds, by their first word. ``rules`` build
    the parts of its grammar, ``text`` writes its body again. ``bind`` gives the body bound to the columns it meets, and
    the columns it leaves. ``said`` puts it into words where that helps. ``seeded`` gives the body with a seed, where it
    goes by chance and names none. With ``passes_order`` it makes no use of the order the rows stand in, and leaves it.
    """

    word: str
    takes: str | Callable[[], str]
    does: str
    example: str
    effect: Effect
    rules: Mapping[str, Rule]
    text: Callable[[Any], str]
    bind: Callable[[Any, Binder], tuple[b.BoundBody, Scope]]
    said: Callable[[Any], str] = lambda body: ""
    breaks: Callable[[Any, str], tuple[int, ...]] = lambda body, text: ()
    seeded: Callable[[Any, int], Any] = lambda body, seed: body
    passes_order: bool = False
    forms: Callable[[], Mapping[str, str]] = dict

    def form(self) -> str:
        """Return what it takes, as it is now: a table that it names may have grown."""
        return self.takes if isinstance(self.takes, str) else self.takes()
