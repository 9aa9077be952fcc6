"""What binds the expressions of one statement, for those who bind a form of it."""

from __future__ import annotations

from typing import Protocol

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.fixed import Fixed
from yardcut.core.language.meaning.scope import Lookup, Scope


class Tallied(Protocol):
    """Gives the aggregates of a tally's measures their columns."""

    def column(self, aggregate: b.Aggregate) -> b.ColumnValue:
        """Return the column of an aggregate; equal ones share it."""


class Binds(Protocol):
    """Binds the parts of a form, and says what is wrong with one. All of it may raise ``ListError``."""

    lookup: Lookup
    text: str
    fixed: Fixed
    tallied: Tallied | None
    """Takes the aggregates of a tally's measures; ``None`` where they are over all rows."""

    @property
    def scope(self) -> Scope:
        """The columns that can be named."""

    def over(self, scope: Scope) -> Binds:
        """Return what binds to other columns."""

    def condition(self, node: t.Expression) -> b.BoundCondition | None:
        """Bind a condition; ``None`` when every piece of it is switched off."""

    def test(self, node: t.Expression) -> tuple[b.BoundTest, bool]:
        """Bind one test, and tell whether it is negated."""

    def value(self, node: t.Expression) -> b.BoundValue:
        """Bind a value."""

    def pair(self, left: t.Expression, right: t.Expression) -> tuple[b.BoundValue, b.BoundValue]:
        """Bind two sides of a comparison, reading a literal as the other side's kind."""

    def side(self, node: t.Expression, other: t.Expression) -> b.BoundValue:
        """Bind one side of a test."""

    def as_other(self, node: t.Expression, value: b.BoundValue, other: b.BoundValue) -> b.BoundValue:
        """Read a text literal as the kind of day or time it stands beside."""

    def error(self, node: t.Node, message: str, mend: Mend | None = None) -> ListError:
        """Return an error at the place of a node."""

    def replacing(self, node: t.Node, says: str, replacement: str) -> Mend:
        """Return the mend that puts another text in the place of a node."""


def is_constant(node: t.Expression) -> bool:
    """Tell whether a value is written out: a literal, perhaps with a sign, or the day of the run."""
    inner = node.value if isinstance(node, t.Negated) else node
    return isinstance(inner, t.Text | t.Number | t.Truth | t.Moment | t.CurrentDate)
