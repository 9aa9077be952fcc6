"""``bring``: columns from a second table, by key."""

from __future__ import annotations

import re

from yardcut.core.errors import Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.bound_second import Brought, Listed, Matching, TheirValue
from yardcut.core.language.meaning.scope import Lookup, Scope, SecondTable
from yardcut.core.language.meaning.second_forms import matching_keys, second_table, their_value
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.verbs.bring_parts import (
    Bring,
    BroughtItem,
    Match,
    Only,
    bring,
    bring_text,
    brought_item,
    free_name,
    item_text,
    key_pair,
    latest,
)
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class BoundBring(b.BoundBody):
    """A bring line: how rows are found in the second table, and what is brought.

    ``found`` tells for each row whether one was found, where only such rows, or only others, are left.
    """

    matching: Matching
    brought: tuple[b.ShownColumn, ...]
    only: Only
    found: b.BoundValue | None = None

    def restricts(self) -> tuple[b.BoundValue, ...]:
        """Return the keys where they decide which rows are left."""
        return self.matching.keys if self.only else ()


def _bind(body: Bring, binder: Binder) -> tuple[BoundBring, Scope]:
    other = second_table(binder, body.second)
    keys, their_keys = matching_keys(binder, other, body.second, [(pair.ours, pair.theirs) for pair in body.keys])
    moment, their_moment = None, None
    if body.latest is not None:
        ours, theirs = matching_keys(binder, other, body.second, [(body.latest.ours, body.latest.theirs)])
        moment, their_moment = ours[0], theirs[0]
        if moment.kind is Kind.TEXT:
            raise binder.error(body.latest, "latest takes a day, a moment or a number, not a text")
        if body.match:
            raise binder.error(body.latest, f"latest finds one row at most: {body.match} has no meaning here")
    takes_first = body.match is Match.FIRST or body.only is Only.UNMATCHED
    matching = Matching(
        other.rows, keys, their_keys, moment, their_moment, first=takes_first,
        every=body.match is Match.EVERY and not takes_first,
    )  # fmt: skip
    items = _columns(body, binder, other)
    _refuse_names(body, binder, items)
    scope, made = binder.scope, []
    for name, value in items:
        brought = Brought(matching, value, value.kind, binder.fixed.line)
        scope = scope.with_made(name, b.Made(brought, value.kind, name))
        column = scope.find(name)
        assert column is not None
        made.append(column)
    found = Listed(matching, binder.fixed.line) if body.only else None
    return BoundBring(matching, tuple(made), body.only, found), scope


def _columns(body: Bring, binder: Binder, other: SecondTable) -> list[tuple[str, TheirValue]]:
    """Return the columns that are brought, by the names they get."""
    if body.items:
        found = []
        for item in body.items:
            value = their_value(binder, other, body.second, item.column)
            found.append((item.name or value.name, value))
        return found
    keys = {_key_name(binder, other, pair.theirs or pair.ours) for pair in body.keys}
    return [
        (column.name, TheirValue(column.value, column.name))
        for column in other.scope.shown
        if column.name not in keys
    ]  # fmt: skip


def _key_name(binder: Binder, other: SecondTable, node: t.Expression) -> str:
    if not isinstance(node, t.Name | t.ColumnNumber):
        return ""
    return Lookup(other.scope, binder.text).column(node).name


def _refuse_names(body: Bring, binder: Binder, items: list[tuple[str, TheirValue]]) -> None:
    """Raise ``ListError`` where a name is here already, or comes twice, with other names offered."""
    taken = set(binder.scope.names())
    names_above = [[name for name, _ in items[:place]] for place in range(len(items))]
    wrong = [place for place, (name, _) in enumerate(items) if name in taken or name in names_above[place]]
    if not wrong:
        return
    names = {name for name, _ in items} | taken
    for place in wrong:
        free = free_name(body.second, items[place][0], names)
        items[place] = (free, items[place][1])
        names.add(free)
    written = ", ".join(
        item_text(BroughtItem(t.Name(value.name), None if name == value.name else name)) for name, value in items
    )
    first = body.items[wrong[0]] if body.items else None
    name = items[wrong[0]][1].name if first is None or first.name is None else first.name
    node: t.Node = body if first is None else first
    listed = r"(?is)\A(\s*(?:off\s+)?bring\s+).*?(?=\s+from\s)"
    whole = re.sub(listed, lambda met: met[1] + written, binder.text, count=1)
    there = "comes twice" if body.items and name not in taken else "is here already"
    raise binder.error(node, f"a column {name_text(name)} {there}", Mend("call it otherwise", whole))


BRING = Verb(
    "bring",
    'bring name [AS new], … | all from "file" | cut "name" by key [= their_key], … [, latest time <= ours] '
    "[matched only | unmatched only] [first match | every match]",
    "brings columns from a second table, by key",
    'bring name AS mill, region from "mills.csv" by mill_id = id first match',
    Effect.SHAPES,
    {"brought": brought_item, "key_pair": key_pair, "latest": latest, "bring": bring},
    bring_text,
    _bind,
    forms=lambda: {
        "all": 'bring all from "mills.csv" by mill_id = id: all columns but the keys',
        "matched": 'bring name from "mills.csv" by mill_id = id matched only: also unmatched only',
        "cut": 'bring volume AS whole from cut "totals" by species',
        "latest": 'bring setting from "settings.csv" by bay, latest set_at <= kiln_in: what held at that time',
    },
    passes_order=True,
)
