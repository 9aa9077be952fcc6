"""``keep`` and ``drop``: rows by a condition."""

from __future__ import annotations

import itertools
import re
from typing import Any

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.bound_parts import columns_named
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass

_AND, _OR = re.compile(r"\bAND\b", re.IGNORECASE), re.compile(r"\bOR\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class BoundFilter(b.BoundBody):
    """A keep or drop line; ``condition`` is ``None`` when all its pieces are off."""

    condition: b.BoundCondition | None
    drops: bool

    def restricts(self) -> tuple[b.BoundValue, ...]:
        """Return the columns it looks at."""
        return columns_named(self.condition)


def _keep(span: t.Span, items: list[Any]) -> Keep:
    return Keep(items[-1], span=span)


def _drop(span: t.Span, items: list[Any]) -> Drop:
    return Drop(items[-1], span=span)


def _text(body: Keep | Drop) -> str:
    return expression_text(body.condition)


def _bind(body: Keep | Drop, binder: Binder) -> tuple[BoundFilter, Scope]:
    return BoundFilter(binder.condition(body.condition), isinstance(body, Drop)), binder.scope


def _breaks(body: Keep | Drop, text: str) -> tuple[int, ...]:
    """Break before each AND and OR, whatever they are nested in; those of BETWEEN and of texts join no conditions."""
    found: list[int] = []

    def walk(node: t.Expression) -> None:
        match node:
            case t.And(items) | t.Or(items):
                word = _AND if isinstance(node, t.And) else _OR
                for before, after in itertools.pairwise(items):
                    joint = word.search(text, before.span[1], after.span[0])
                    found.extend([joint.start()] if joint else [])
                for item in items:
                    walk(item)
            case t.Not(inner) | t.IsTruth(condition=inner) | t.Off(inner):
                walk(inner)

    walk(body.condition)
    return tuple(sorted(found))


KEEP = Verb(
    "keep",
    "keep condition",
    "leaves the rows for which it is true; unknown goes",
    "keep grade IN ('A', 'B') AND (length_mm >= 2400 OR species = 'larch')",
    Effect.REMOVES,
    {"keep": _keep},
    _text,
    _bind,
    breaks=_breaks,
    passes_order=True,
)
DROP = Verb(
    "drop",
    "drop condition",
    "removes the rows for which it is true; unknown stays",
    "drop bay = 'ALL BAYS'",
    Effect.REMOVES,
    {"drop": _drop},
    _text,
    _bind,
    breaks=_breaks,
    passes_order=True,
)
