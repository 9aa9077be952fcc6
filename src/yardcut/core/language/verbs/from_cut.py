"""``from``: begin with the rows another cut leaves, in its order and with the columns it made."""

from __future__ import annotations

from dataclasses import field, replace
from typing import Any

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.formatting import quote_name


@dataclass(frozen=True, slots=True)
class FromCut(t.Body):
    """Begins with another cut."""

    name: str

    @property
    def word(self) -> str:
        """The verb."""
        return "from"


@dataclass(frozen=True, slots=True)
class BoundFrom(b.BoundBody):
    """A from line: the bound lines of the other cut; ``mark`` tells what they do from anything else."""

    name: str
    mark: str
    lines: tuple[Any, ...] = field(compare=False, repr=False)

    @property
    def computes(self) -> bool:
        """What the other cut looks at is that cut's matter."""
        return False


def _from(span: t.Span, items: list[Any]) -> FromCut:
    name = unquote(items[1])
    if not name:
        raise ListError("from takes the name of a cut, and this is none", start=span[0], end=span[1])
    return FromCut(name, span=span)


def _bind(body: FromCut, binder: Binder) -> tuple[BoundFrom, Scope]:
    if not binder.fixed.is_first:
        start, end = body.span
        raise ListError("from begins a cut: it stands in its first line only", start=start, end=end)
    try:
        mark, lines, scope = binder.fixed.earlier(body.name)
    except ListError as error:
        raise ListError(error.message, start=body.span[0], end=body.span[1], mend=error.mend) from None
    # nothing is hidden or renamed, whatever the other cut shows
    return BoundFrom(body.name, mark, lines), replace(scope, shown=scope.known)


FROM = Verb(
    "from",
    'from "another cut"',
    "begins with the rows an earlier cut of the list leaves",
    'from "winter oak"',
    Effect.REMOVES,
    {"from_cut": _from},
    lambda body: quote_name(body.name),
    _bind,
)
