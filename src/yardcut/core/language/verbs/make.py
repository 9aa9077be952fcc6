"""``make``: columns computed from others. A name that exists is replaced, at its place."""

from __future__ import annotations

from typing import Any

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import name_in
from yardcut.core.language.syntax.printing import expression_text, name_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class MadeItem(t.Node):
    """One column to be made: ``name = value``."""

    name: str
    value: t.Expression


@dataclass(frozen=True, slots=True)
class Make(t.Body):
    """Computes columns, one after the other."""

    items: tuple[MadeItem, ...]

    @property
    def word(self) -> str:
        """The verb."""
        return "make"


@dataclass(frozen=True, slots=True)
class BoundMake(b.BoundBody):
    """A make line: the columns it made, the rows stay as they are."""

    made: tuple[b.ShownColumn, ...]


def _made_item(span: t.Span, items: list[Any]) -> MadeItem:
    return MadeItem(name_in(items[0]), items[2], span=span)


def _make(span: t.Span, items: list[Any]) -> Make:
    return Make(tuple(items[1:]), span=span)


def _text(body: Make) -> str:
    return ", ".join(f"{name_text(item.name)} = {expression_text(item.value)}" for item in body.items)


def _bind(body: Make, binder: Binder) -> tuple[BoundMake, Scope]:
    made: list[b.ShownColumn] = []
    for item in body.items:
        if any(other.name == item.name for other in made):
            start, end = item.span
            raise ListError(f"this line makes {item.name} twice", start=start, end=end)
        value = binder.value(item.value)
        scope = binder.scope.with_made(item.name, b.Made(value, value.kind, item.name))
        column = scope.find(item.name)
        assert column is not None
        made.append(column)
        binder.lookup.scope = scope  # items of one line see the earlier ones
    return BoundMake(tuple(made)), binder.scope


MAKE = Verb(
    "make",
    "make name = value, … with + - * / % and functions",
    "computes columns; a name that exists is replaced",
    "make worth = volume_m3 * price_per_m3",
    Effect.SHAPES,
    {"made_item": _made_item, "make": _make},
    _text,
    _bind,
    passes_order=True,
)
