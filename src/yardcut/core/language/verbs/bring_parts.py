"""The parts of a bring line, and how they are written."""

from __future__ import annotations

import re
from collections.abc import Collection
from enum import StrEnum
from typing import Any

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import Second
from yardcut.core.language.syntax.building_expressions import name_in
from yardcut.core.language.syntax.printing import expression_text, name_text, second_text, side_text
from yardcut.core.quick_dataclasses import dataclass


class Only(StrEnum):
    """Which rows a bring line leaves."""

    ALL = ""
    MATCHED = "matched only"
    UNMATCHED = "unmatched only"


class Match(StrEnum):
    """What is done with a key that is found several times."""

    ONE = ""
    FIRST = "first match"
    EVERY = "every match"


@dataclass(frozen=True, slots=True)
class BroughtItem(t.Node):
    """A column of the second table, and the name it gets here where that is another."""

    column: t.Name | t.ColumnNumber
    name: str | None = None


@dataclass(frozen=True, slots=True)
class KeyPair(t.Node):
    """A value here, and the one it is looked for among there; ``None``: the column of the same name."""

    ours: t.Expression
    theirs: t.Expression | None = None


@dataclass(frozen=True, slots=True)
class Latest(t.Node):
    """The nearest earlier row: the last one whose ``theirs`` is not after ``ours``."""

    theirs: t.Name | t.ColumnNumber
    ours: t.Expression


@dataclass(frozen=True, slots=True)
class Bring(t.Body):
    """Brings columns from a second table by key; no ``items`` mean all but the keys."""

    items: tuple[BroughtItem, ...]
    second: Second
    keys: tuple[KeyPair, ...]
    latest: Latest | None = None
    only: Only = Only.ALL
    match: Match = Match.ONE

    @property
    def word(self) -> str:
        """The verb."""
        return "bring"


def brought_item(span: t.Span, items: list[Any]) -> BroughtItem:
    """Build one of the columns."""
    return BroughtItem(items[0], name_in(items[1]) if len(items) > 1 else None, span=span)


def key_pair(span: t.Span, items: list[Any]) -> KeyPair:
    """Build one key."""
    return KeyPair(items[0], items[2] if len(items) > 1 else None, span=span)


def latest(span: t.Span, items: list[Any]) -> Latest:
    """Build the moment before which the row is the last. Raises ``ListError`` for another comparison."""
    _, theirs, sign, ours = items
    if sign != "<=":
        raise ListError(
            "latest takes the last row that is not after: latest their_time <= our_time",
            start=sign.start_pos, end=sign.end_pos,
        )  # fmt: skip
    return Latest(theirs, ours, span=span)


def bring(span: t.Span, items: list[Any]) -> Bring:
    """Build the line. Raises ``ListError`` where two of its words say different things."""
    words = {"MATCHED_ONLY": Only.MATCHED, "UNMATCHED_ONLY": Only.UNMATCHED, "FIRST_MATCH": Match.FIRST,
             "EVERY_MATCH": Match.EVERY}  # fmt: skip
    found: dict[type, Any] = {}
    for item in items[1:]:
        word = words.get(getattr(item, "type", ""))
        if word is None:
            continue
        if type(word) in found:
            start = item.start_pos or 0
            raise ListError("one of these words is enough, and two do not go together", start=start,
                            end=start + len(item))  # fmt: skip
        found[type(word)] = word
    return Bring(
        tuple(item for item in items if isinstance(item, BroughtItem)),
        next(item for item in items if isinstance(item, Second)),
        tuple(item for item in items if isinstance(item, KeyPair)),
        next((item for item in items if isinstance(item, Latest)), None),
        found.get(Only, Only.ALL), found.get(Match, Match.ONE), span=span,
    )  # fmt: skip


def free_name(second: Second, name: str, taken: Collection[str]) -> str:
    """Return a name for a column that is told from those that are taken by the second table's own name."""
    stem = re.sub(r"\W+", "_", second.name.rsplit("/", 1)[-1].split(".")[0]).strip("_") or "second"
    free, number = f"{stem}_{name}", 2
    while free in taken:
        free, number = f"{stem}_{name}_{number}", number + 1
    return free


def item_text(item: BroughtItem) -> str:
    """Write one of the columns."""
    return expression_text(item.column) + ("" if item.name is None else f" AS {name_text(item.name)}")


def pair_text(pair: KeyPair) -> str:
    """Write one key."""
    return side_text(pair.ours) + ("" if pair.theirs is None else f" = {side_text(pair.theirs)}")


def bring_text(body: Bring) -> str:
    """Write what stands behind the verb."""
    columns = ", ".join(map(item_text, body.items)) or "all"
    keys = [pair_text(pair) for pair in body.keys]
    if body.latest is not None:
        keys.append(f"latest {expression_text(body.latest.theirs)} <= {side_text(body.latest.ours)}")
    words = "".join(f" {word}" for word in (body.only, body.match) if word)
    return f"{columns} from {second_text(body.second)} by {', '.join(keys)}{words}"
