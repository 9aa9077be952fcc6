"""``columns``: which columns are shown, in which order, under which names."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.chosen_columns import choose
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import Rule, name_in
from yardcut.core.language.syntax.printing import items_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Columns(t.Body):
    """Chooses, orders and renames columns."""

    items: tuple[t.ColumnItem, ...]
    without: tuple[t.ColumnItem, ...] = ()

    @property
    def word(self) -> str:
        """The verb."""
        return "columns"


@dataclass(frozen=True, slots=True)
class BoundColumns(b.BoundBody):
    """A columns line: what is shown from here on."""

    shown: tuple[b.ShownColumn, ...]

    @property
    def computes(self) -> bool:
        """Names are all it looks at."""
        return False


def _one_column(span: t.Span, items: list[Any]) -> t.OneColumn:
    new_name = None
    if len(items) > 1:
        new_name = name_in(items[1])
    return t.OneColumn(items[0], new_name, span=span)


def _columns(span: t.Span, items: list[Any]) -> Columns:
    return Columns(items[1], items[2] if len(items) > 2 else (), span=span)


_RULES: dict[str, Rule] = {
    "one_column": _one_column,
    "range": lambda span, items: t.ColumnRange(items[0], items[1], span=span),
    "pattern": lambda span, items: t.ColumnPattern(str(items[0]), span=span),
    "regex": lambda span, items: t.ColumnRegex(items[0][1:-1].replace("\\/", "/"), span=span),
    "of_kind": lambda span, items: t.ColumnsOfKind(items[0].lower(), span=span),
    "all": lambda span, items: t.AllColumns(span=span),
    "off_item": lambda span, items: t.OffItem(items[1], span=span),
    "column_list": lambda span, items: tuple(items),
    "columns": _columns,
}


def _text(body: Columns) -> str:
    return items_text(body.items, body.without)


def _bind(body: Columns, binder: Binder) -> tuple[BoundColumns, Scope]:
    shown = choose(body.items, body.without, binder.lookup)
    return BoundColumns(shown), replace(binder.scope, shown=shown)


COLUMNS = Verb(
    "columns",
    "columns name [AS new], a..b, #3, moisture_*, all without …",
    "chooses, orders and renames columns",
    "columns ticket, species AS wood, moisture_d*",
    Effect.SHAPES,
    _RULES,
    _text,
    _bind,
    passes_order=True,
)
